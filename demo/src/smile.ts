import {
  expiryInstant,
  instantOf,
  isSession,
  MILLISECONDS_PER_DAY,
  nextSession,
  previousSession,
  yearsBetween,
  expiryName,
  namedExpiry,
} from '@umwelt/core';
import { LAST_QUARTER, quarterInstant, type Session } from './path';
import { uniformAt } from './random';
import { CALENDAR, type UnderlyingSpec } from './world';

/** An underlying at one moment. */
export interface Moment {
  asof: number;
  day: string;
  price: number;
  vol: number;
  level: number;
  rho: number;
}

/** The moment at a quarter of a session; level and tilt move from the session before to this one. */
export function momentOf(session: Session, before: Session, quarter = LAST_QUARTER): Moment {
  const share = (quarter + 1) / (LAST_QUARTER + 1);
  const between = (from: number, to: number) => from + (to - from) * share;
  return {
    asof: quarterInstant(session.day, quarter),
    day: session.day,
    price: session.quarters[quarter]!,
    vol: session.vols[quarter]!,
    level: between(before.level, session.level),
    rho: between(before.rho, session.rho),
  };
}

/** The market's idea of one expiry at one moment. */
export interface Smile {
  years: number;
  forward: number;
  rate: number;
  /** Total variance at the forward. */
  theta: number;
  rho: number;
  phi: number;
  /** Two outcomes with their weights, as multiples of the forward, where a yes or a no lies on the way. */
  humps: { multiple: number; weight: number }[];
}

/** Rates of the two currencies for a maturity, and their slow drift over the days. */
export function rateOf(currency: string, day: string, years: number): number {
  const wave = Math.sin(Date.parse(day) / MILLISECONDS_PER_DAY / 40);
  const bend = 1 - Math.exp(-2 * years);
  return currency === 'LUN' ? 0.0232 + 0.0008 * wave + 0.001 * bend : 0.0405 + 0.0015 * wave + 0.002 * bend;
}

const RATE_DAYS = [1, 7, 30, 91, 182, 365, 730];
const CURRENCIES = ['ICR', 'LUN'];

/** The rate curves of a day, with six decimals. */
export function ratesOf(date: string) {
  return CURRENCIES.flatMap((currency) =>
    RATE_DAYS.map((days) => ({ date, currency, days, rate: Number(rateOf(currency, date, days / 365).toFixed(6)) })),
  );
}

/** Forward of an expiry: cash dividends taken off, the rest carried at the rate less the yield. */
function forwardOf(spec: UnderlyingSpec, { price, asof }: Moment, expiryAt: number, rate: number): number {
  if (spec.kind === 'future') return price;
  let spot = price;
  for (const { exDate, amount } of spec.dividends) {
    const paidAt = instantOf(CALENDAR, exDate, CALENDAR.open);
    if (paidAt > asof && paidAt < expiryAt) spot -= amount * Math.exp(-rate * yearsBetween(asof, paidAt));
  }
  return spot * Math.exp((rate - spec.yield) * yearsBetween(asof, expiryAt));
}

/** Variance that an announcement adds: of its jump, or of its two outcomes. */
export function varianceOf({ jump, humps }: UnderlyingSpec['events'][number]): number {
  if (!humps) return jump ** 2;
  const [up, down] = [Math.log(1 + humps.up), Math.log(1 - humps.down)];
  const share = humps.down / (humps.up + humps.down);
  return share * (1 - share) * (up - down) ** 2;
}

/**
 * The smile of an expiry: variance that returns to its level, what the announcements on the way add, and a
 * tilt and curvature that flatten with time (J. Gatheral and A. Jacquier, "Arbitrage-free SVI volatility
 * surfaces", 2014, power-law parameters).
 *
 * @param name of the expiry
 */
export function smileOf(spec: UnderlyingSpec, moment: Moment, name: string): Smile {
  const { asof, day, vol, level, rho } = moment;
  const { expiry, settlement } = namedExpiry(name)!;
  const expiryAt = expiryInstant(CALENDAR, expiry, settlement);
  const years = yearsBetween(asof, expiryAt);
  const { reversion, premium } = spec.vol;
  const fade = (1 - Math.exp(-reversion * years)) / (reversion * years);
  let theta = premium ** 2 * (level ** 2 + (vol ** 2 - level ** 2) * fade) * years;
  let humps: Smile['humps'] = [];
  for (const event of spec.events) {
    const at = instantOf(CALENDAR, event.day, event.time);
    if (at <= asof || at >= expiryAt) continue;
    theta += event.jump ** 2;
    if (event.humps) {
      const { up, down } = event.humps;
      // Weighted so that the forward stays what it is.
      humps = [
        { multiple: 1 + up, weight: down / (up + down) },
        { multiple: 1 - down, weight: up / (up + down) },
      ];
    }
  }
  const rate = rateOf(spec.currency, day, years);
  return {
    years,
    rate,
    forward: forwardOf(spec, moment, expiryAt, rate),
    theta,
    rho,
    phi: spec.skew.eta / Math.sqrt(theta * (1 + theta)),
    humps,
  };
}

/**
 * Vol at a strike: the smile, a lift in the far wings and a small unevenness that stays with the contract,
 * so that no smooth curve meets the quotes exactly.
 *
 * @param hash of the underlying and its expiry
 */
export function volAt(smile: Smile, strike: number, hash: number): number {
  const k = Math.log(strike / smile.forward);
  const u = smile.phi * k + smile.rho;
  const w = 0.5 * smile.theta * (1 + smile.rho * smile.phi * k + Math.sqrt(u * u + 1 - smile.rho * smile.rho));
  const z = k / Math.sqrt(smile.theta);
  const z2 = Math.min(z * z, 9);
  const vol = Math.sqrt(w / smile.years);
  const unevenness = 0.01 * vol * (uniformAt(hash, strike * 10_000, 1) - 0.5) * (1 + 0.4 * z2);
  return vol * (1 + 0.004 * z2) + unevenness;
}

/** Names of the expiries that trade at a session: dailies, weeklies, monthlies and quarterlies; of a future up to its delivery. */
export function expiriesAt(day: string, { expiries, expires, settledTwice }: UnderlyingSpec): string[] {
  const found = new Set<string>();
  const start = Date.parse(`${day}T00:00:00Z`);
  let thursdays = 0;
  for (let n = 1; n <= Math.max(expiries.quarterlyDays, expiries.monthlyDays); n++) {
    const date = new Date(start + n * MILLISECONDS_PER_DAY);
    if (date.getUTCDay() !== CALENDAR.expiryWeekday) continue;
    thursdays++;
    const isMonthly = date.getUTCDate() >= 15 && date.getUTCDate() <= 21;
    const isQuarterly = isMonthly && date.getUTCMonth() % 3 === 2;
    const isListed =
      thursdays <= expiries.weeklies ||
      (isQuarterly && n <= expiries.quarterlyDays) ||
      (isMonthly && n <= expiries.monthlyDays);
    if (isListed) found.add(listedDay(date));
  }
  if (expires !== undefined) found.add(expires);
  for (let n = 0, session = day; n < expiries.dailies; n++, session = nextSession(CALENDAR, session))
    found.add(session);
  if (settledTwice !== undefined && found.has(settledTwice))
    found.add(expiryName({ expiry: settledTwice, settlement: 'am' }));
  // Trading in a series ends at 15:30 of its last day, but for those that live a day or two.
  return [...found]
    .filter((expiry) => (expiry > day || expiries.dailies > 0) && (expires === undefined || expiry <= expires))
    .sort();
}

/** A Thursday without a session expires on the session before. */
function listedDay(date: Date): string {
  const day = date.toISOString().slice(0, 10);
  return isSession(CALENDAR, day) ? day : previousSession(CALENDAR, day);
}
