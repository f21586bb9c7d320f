import { dayOf, expiryInstant, instantOf, yearsBetween } from '@umwelt/core';
import { CALENDAR, snapshotInstant, type Session } from './path';
import { uniformOf } from './random';
import type { UnderlyingSpec } from './world';

/** The market's idea of one expiry at one moment. */
export interface Smile {
  years: number;
  forward: number;
  rate: number;
  /** Total variance at the forward. */
  theta: number;
  rho: number;
  phi: number;
}

/** Rate of the island for a maturity, and its slow drift over the days. */
export function islandRate(day: string, years: number): number {
  const drift = 0.0015 * Math.sin(Date.parse(day) / 86_400_000 / 40);
  return 0.0405 + drift + 0.002 * (1 - Math.exp(-2 * years));
}

/** Forward of an expiry: cash dividends taken off, the rest carried at the rate less the yield. */
function forwardOf(spec: UnderlyingSpec, session: Session, asof: number, expiryAt: number, rate: number): number {
  let price = session.snapshotPrice;
  for (const { exDate, amount } of spec.dividends) {
    const paidAt = instantOf(CALENDAR, exDate, CALENDAR.open);
    if (paidAt > asof && paidAt < expiryAt) price -= amount * Math.exp(-rate * yearsBetween(asof, paidAt));
  }
  return price * Math.exp((rate - spec.yield) * yearsBetween(asof, expiryAt));
}

/**
 * The smile of an expiry: variance that returns to its level, what the announcements on the way add, and a
 * tilt and curvature that flatten with time (J. Gatheral and A. Jacquier, "Arbitrage-free SVI volatility
 * surfaces", 2014, power-law parameters).
 */
export function smileOf(spec: UnderlyingSpec, session: Session, expiry: string): Smile {
  const asof = snapshotInstant(session.day);
  const expiryAt = expiryInstant(CALENDAR, expiry, 'pm');
  const years = yearsBetween(asof, expiryAt);
  const { level, reversion, premium } = spec.vol;
  const now = session.vol ** 2;
  const fade = (1 - Math.exp(-reversion * years)) / (reversion * years);
  let theta = premium ** 2 * (level ** 2 + (now - level ** 2) * fade) * years;
  for (const { day, time, jump } of spec.events) {
    const at = instantOf(CALENDAR, day, time);
    if (at > asof && at < expiryAt) theta += jump ** 2;
  }
  const rate = islandRate(session.day, years);
  return {
    years,
    rate,
    forward: forwardOf(spec, session, asof, expiryAt, rate),
    theta,
    rho: session.rho,
    phi: spec.skew.eta / Math.sqrt(theta * (1 + theta)),
  };
}

/**
 * Vol at a strike: the smile, a lift in the far wings and a small unevenness that stays with the contract,
 * so that no smooth curve meets the quotes exactly.
 */
export function volAt(smile: Smile, strike: number, contract: string): number {
  const k = Math.log(strike / smile.forward);
  const u = smile.phi * k + smile.rho;
  const w = 0.5 * smile.theta * (1 + smile.rho * smile.phi * k + Math.sqrt(u * u + 1 - smile.rho * smile.rho));
  const z = k / Math.sqrt(smile.theta);
  const unevenness = 0.0016 * (uniformOf(contract) - 0.5) * (1 + 0.4 * z * z);
  return Math.sqrt(w / smile.years) * (1 + 0.004 * Math.min(z * z, 9)) + unevenness;
}

/** The expiries that trade at a snapshot: weeklies, monthlies of three months, quarterlies up to a year. */
export function expiriesAt(day: string, weeklies: number): string[] {
  const found = new Set<string>();
  const start = Date.parse(`${day}T00:00:00Z`);
  let thursdays = 0;
  for (let n = 1; n <= 300; n++) {
    const date = new Date(start + n * 86_400_000);
    if (date.getUTCDay() !== CALENDAR.expiryWeekday) continue;
    thursdays++;
    const isMonthly = date.getUTCDate() >= 15 && date.getUTCDate() <= 21;
    const isQuarterly = isMonthly && date.getUTCMonth() % 3 === 2;
    if (thursdays <= weeklies || isQuarterly || (isMonthly && n <= 70)) found.add(listedDay(date));
  }
  // Trading in a series ends at 15:30 of its last day, so the series of the day is not in its snapshot.
  return [...found].filter((expiry) => expiry > day);
}

/** A Thursday without a session expires on the session before. */
function listedDay(date: Date): string {
  let at = date.getTime();
  const iso = () => new Date(at).toISOString().slice(0, 10);
  while (CALENDAR.holidays.has(iso())) at -= 86_400_000;
  return dayOf(CALENDAR, instantOf(CALENDAR, iso(), '12:00'));
}
