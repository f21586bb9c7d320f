import {
  americanExpiry,
  impliedVols,
  makeFirstOrder,
  MILLISECONDS_PER_DAY,
  normalInverse,
  priceEuropean,
  namedExpiry,
  previousSession,
} from '@umwelt/core';
import { inNewTerms, inOldTerms, sharesOf } from './adjust';
import { roundTo, SESSIONS_PER_YEAR } from './path';
import { hashOf, Random, uniformAt } from './random';
import { expiriesAt, smileOf, volAt, type Moment, type Smile } from './smile';
import { CALENDAR, type Adjustment, type UnderlyingSpec } from './world';

/** One line of a chain. A zero bid is a quote nobody bids for. */
export interface Quote {
  /** Its name: the day, with am behind it where it settles in the morning. */
  expiry: string;
  strike: number;
  side: 'C' | 'P';
  bid: number;
  ask: number;
  bidSize: number;
  askSize: number;
  last: number | null;
  volume: number;
  openInterest: number;
}

/** How much more strikes than usual an expiry may have in wild times, before they lie further apart. */
const MOST_CROWDED = 1.7;

/**
 * The strikes that are quoted for an expiry in a session: as far as prices may go in it and after it. How far apart they lie
 * depends on the usual level of vol, so that a list does not thin out for a day.
 *
 * @param vol at the first moment of the session
 */
function strikesOf(
  { strikes: { step, offset, most }, vol: { level } }: UnderlyingSpec,
  smile: Smile,
  vol: number,
): number[] {
  const width = smile.humps.length > 0 ? 0.25 : 0;
  const reachOf = (deviation: number, ofDay: number) => Math.max(0.04, 3.1 * deviation + width, 3.2 * ofDay);
  const ends = (reach: number) =>
    [smile.forward * Math.exp(-1.15 * reach), smile.forward * Math.exp(0.9 * reach)] as const;
  const [from, to] = ends(reachOf(Math.sqrt(smile.theta), vol / Math.sqrt(SESSIONS_PER_YEAR)));
  const [low, high] = ends(reachOf(level * Math.sqrt(smile.years), level / Math.sqrt(SESSIONS_PER_YEAR)));
  let apart = step;
  while ((high - low) / apart > most || (to - from) / apart > MOST_CROWDED * most) apart *= 2;
  const strikes: number[] = [];
  for (let n = Math.ceil((from - offset) / apart); n * apart + offset <= to; n++) {
    strikes.push(Number((n * apart + offset).toFixed(6)));
  }
  return strikes;
}

/** Expiries that were listed before the adjustment, on a day from it on: their strikes are old ones. */
function adjustedExpiries(spec: UnderlyingSpec, day: string): ReadonlySet<string> {
  const { adjustment } = spec;
  if (!adjustment || day < adjustment.exDate) return new Set();
  return new Set(expiriesAt(previousSession(CALENDAR, adjustment.exDate), spec));
}

/** The same of an expiry that was listed before an adjustment: the strikes of then in the terms of now. */
function adjustedStrikes(spec: UnderlyingSpec, adjustment: Adjustment, smile: Smile, vol: number): number[] {
  const then = { ...smile, forward: inOldTerms(adjustment, smile.forward) };
  return strikesOf(spec, then, vol).map((strike) => inNewTerms(adjustment, strike));
}

/**
 * Prices and vegas of all strikes, calls first, then puts.
 *
 * @param spot price of the underlying where contracts can be exercised early; null where not
 */
function valuesOf(smile: Smile, strikes: readonly number[], hash: number, spot: number | null) {
  const half = strikes.length;
  const count = 2 * half;
  const price = new Float64Array(count);
  const vega = new Float64Array(count);
  const strike = new Float64Array(count);
  const vol = new Float64Array(count);
  for (let i = 0; i < half; i++) {
    strike[i] = strike[half + i] = strikes[i]!;
    vol[i] = vol[half + i] = volAt(smile, strikes[i]!, hash);
  }
  const out = makeFirstOrder(count);
  const rate = new Float64Array(count).fill(smile.rate);
  const input = {
    spot: new Float64Array(count),
    strike,
    years: new Float64Array(count).fill(smile.years),
    rate,
    yield: rate,
    vol,
    sign: new Float64Array(count).fill(1, 0, half).fill(-1, half),
  };
  for (const { multiple, weight } of smile.humps.length > 0 ? smile.humps : ONE_OUTCOME) {
    input.spot.fill(smile.forward * multiple);
    priceEuropean(input, out, count);
    for (let i = 0; i < count; i++) {
      price[i]! += weight * out.price[i]!;
      vega[i]! += weight * out.vega[i]!;
    }
  }
  if (spot !== null) {
    if (smile.humps.length > 0) volsOf(smile, strike, price, input.sign, vol);
    exerciseEarly(smile, spot, strike, vol, input.sign, price);
  }
  return { price, vega };
}

/**
 * The vols that European prices of several outcomes stand for, call and put alike: whoever may exercise early does not know
 * the outcome before the others.
 */
function volsOf(
  { forward, rate, years }: Smile,
  strike: Float64Array,
  price: Float64Array,
  sign: Float64Array,
  vol: Float64Array,
): void {
  const count = price.length;
  const column = (value: number) => new Float64Array(count).fill(value);
  const undiscounted = price.map((one) => one * Math.exp(rate * years));
  impliedVols(column(forward), strike, column(years), undiscounted, sign, vol, count);
  const half = count / 2;
  for (let i = 0; i < half; i++) {
    const outside = strike[i]! < forward ? half + i : i;
    vol[i] = vol[half + i] = vol[outside]!;
  }
}

/** Puts American prices in the place of European ones. */
function exerciseEarly(
  { forward, rate, years }: Smile,
  spot: number,
  strike: Float64Array,
  vol: Float64Array,
  sign: Float64Array,
  price: Float64Array,
): void {
  const carryYield = rate - Math.log(forward / spot) / years;
  const expiry = americanExpiry({ spot, years, rate, yield: carryYield }, Math.min(...vol), Math.max(...vol));
  for (let i = 0; i < price.length; i++) price[i] = expiry.price(sign[i]!, strike[i]!, vol[i]!);
}

const ONE_OUTCOME = [{ multiple: 1, weight: 1 }];

/** How much of a session's volume has been traded: most at the open and towards the close. */
export function tradedShare(ofSession: number): number {
  const x = 2 * ofSession - 1;
  return 0.5 + 0.3 * x + 0.2 * x * x * x;
}

/** A contract of a session, with what stays through it. */
interface Listed {
  strike: number;
  sign: 1 | -1;
  /** Contracts traded on a day of ordinary moves. */
  busy: number;
  /** Open interest where none is known of the sessions before. */
  usual: number;
  /** Share of a session's volume by which its open interest changes: below nought more are closed than opened. */
  opened: number;
}

/** What is listed in a session, by expiry: it depends on the market at its first moment alone. */
export class Listing {
  readonly strikes = new Map<string, readonly number[]>();
  private readonly contracts = new Map<string, readonly Listed[]>();

  /** @param opening the first moment of the session */
  constructor(
    readonly spec: UnderlyingSpec,
    opening: Moment,
  ) {
    const ofDay = hashOf(`${spec.symbol} ${opening.day}`);
    const adjusted = adjustedExpiries(spec, opening.day);
    for (const expiry of expiriesAt(opening.day, spec)) {
      const smile = smileOf(spec, opening, expiry);
      if (smile.years <= 0) continue;
      const strikes = adjusted.has(expiry)
        ? adjustedStrikes(spec, spec.adjustment!, smile, opening.vol)
        : strikesOf(spec, smile, opening.vol);
      this.strikes.set(expiry, strikes);
      const expiryDay = Date.parse(namedExpiry(expiry)!.expiry) / MILLISECONDS_PER_DAY;
      const hash = hashOf(`${spec.symbol} ${expiry}`);
      const deviation = deviationOf(smile);
      const listed: Listed[] = [];
      for (const sign of [1, -1] as const) {
        for (const strike of strikes) {
          const z = Math.log(strike / smile.forward) / deviation;
          listed.push(activityOf(spec, smile.years, z, strike, sign, hash, ofDay ^ expiryDay));
        }
      }
      this.contracts.set(expiry, listed);
    }
  }

  /** Contracts of an expiry, calls first, strikes ascending. */
  of(expiry: string): readonly Listed[] {
    return this.contracts.get(expiry) ?? [];
  }

  /**
   * What has been traded of each contract, by contract.
   *
   * @param stir the furthest that the price has been from the close before, in deviations of a day
   * @param ofSession share of the session that is over
   */
  volumes(stir: number, ofSession: number): Map<string, number> {
    const traded = tradedShare(ofSession) * bustle(stir);
    const volumes = new Map<string, number>();
    for (const [expiry, listed] of this.contracts) {
      for (const { strike, sign, busy } of listed) {
        volumes.set(contractOf({ expiry, strike, side: sign > 0 ? 'C' : 'P' }), Math.floor(busy * traded));
      }
    }
    return volumes;
  }
}

/**
 * Open interest, which changes once a session and by no more than the session has traded: it builds while an expiry is
 * to come, and stays about what it is in the last days.
 */
export class OpenInterest {
  /** By expiry, then by strike: that of a put is negative. */
  private readonly held = new Map<string, Map<number, number>>();
  private isFirst = true;

  /** Another one that goes on by itself. */
  copy(): OpenInterest {
    const other = new OpenInterest();
    for (const [expiry, counts] of this.held) other.held.set(expiry, new Map(counts));
    other.isFirst = this.isFirst;
    return other;
  }

  /** Takes all contracts into the terms of after an adjustment. */
  adjust(adjustment: Adjustment): void {
    for (const [expiry, counts] of this.held) {
      const adjusted = [...counts].map(([key, count]) => {
        const strike = Math.sign(key) * inNewTerms(adjustment, Math.abs(key));
        return [strike, count * sharesOf(adjustment)] as const;
      });
      this.held.set(expiry, new Map(adjusted));
    }
  }

  /** Of a contract before the session that has been begun last. */
  of(expiry: string, strike: number, sign: 1 | -1): number {
    return this.held.get(expiry)?.get(sign * strike) ?? 0;
  }

  /**
   * Begins a session: an expiry that is seen for the first time has been traded for some days, one of the first session for
   * long, and a strike that is added later has not been traded at all.
   */
  begin(listing: Listing): void {
    for (const expiry of listing.strikes.keys()) {
      if (this.held.has(expiry)) continue;
      const share = this.isFirst ? 1 : NEW_SHARE;
      this.held.set(
        expiry,
        new Map(listing.of(expiry).map(({ strike, sign, usual }) => [sign * strike, Math.floor(usual * share)])),
      );
    }
    this.isFirst = false;
  }

  /** Ends a session with what has been traded in it, as for {@link Listing.volumes}. */
  end(listing: Listing, stir: number, ofSession: number): void {
    const traded = tradedShare(ofSession) * bustle(stir);
    for (const expiry of listing.strikes.keys()) {
      const counts = this.held.get(expiry)!;
      for (const { strike, sign, busy, opened } of listing.of(expiry)) {
        const key = sign * strike;
        const change = Math.trunc(Math.floor(busy * traded) * opened);
        counts.set(key, Math.max(0, (counts.get(key) ?? 0) + change));
      }
    }
  }
}

/** Open interest of an expiry when it is seen first, as a share of that of one that has been traded for long. */
const NEW_SHARE = 1 / 8;

/** How a chain is traded at a moment. */
export interface Trading {
  /** As for {@link Listing.volumes}. */
  stir: number;
  ofSession: number;
  interest: Pick<OpenInterest, 'of'>;
  /** Called before a contract is quoted, so that its luck is that of its last renewal; without it that of the moment. */
  renew?: (random: Random, hash: number, strike: number, sign: 1 | -1) => void;
}

/** The chain of an underlying at a moment of a session. */
export function quotesAt(listing: Listing, moment: Moment, trading: Trading): Quote[] {
  const { spec } = listing;
  const random = new Random(`${spec.symbol} ${moment.asof}`);
  const quotes: Quote[] = [];
  for (const expiry of listing.strikes.keys()) {
    const smile = smileOf(spec, moment, expiry);
    if (smile.years > 0) addExpiry(quotes, listing, moment, expiry, smile, trading, random);
  }
  return quotes;
}

function addExpiry(
  quotes: Quote[],
  listing: Listing,
  moment: Moment,
  expiry: string,
  smile: Smile,
  { stir, ofSession, interest, renew }: Trading,
  random: Random,
): void {
  const { spec } = listing;
  const strikes = listing.strikes.get(expiry)!;
  const hash = hashOf(`${spec.symbol} ${expiry}`);
  const values = valuesOf(smile, strikes, hash, spec.exercise === 'american' ? moment.price : null);
  const deviation = deviationOf(smile);
  const traded = tradedShare(ofSession) * bustle(stir);
  for (const [at, { strike, sign, busy }] of listing.of(expiry).entries()) {
    // The broken expiry's calls are quoted as if the price were another.
    const lift = expiry === spec.brokenExpiry && sign > 0 ? 0.07 * moment.price : 0;
    renew?.(random, hash, strike, sign);
    const z = Math.log(strike / smile.forward) / deviation;
    const { tick, half, middle, bid, ask } = quoteAround(spec, values.price[at]! + lift, values.vega[at]!, z, random);
    const volume = Math.floor(busy * traded);
    const depth = 6 + 40 * nearness(z, sign);
    quotes.push({
      expiry,
      strike,
      side: sign > 0 ? 'C' : 'P',
      bid,
      ask,
      bidSize: 1 + Math.floor(depth * Math.exp(0.6 * random.normal())),
      askSize: 1 + Math.floor(depth * Math.exp(0.6 * random.normal())),
      last: volume > 0 ? Math.max(tick, roundTo(middle + half * (random.uniform() - 0.5), tick)) : null,
      volume,
      openInterest: interest.of(expiry, strike, sign),
    });
  }
}

/** Bid and ask on the tick around a price; the spread widens away from the money. */
function quoteAround(spec: UnderlyingSpec, price: number, vega: number, z: number, random: Random) {
  const [small, large] = spec.optionTick;
  const tick = price < 3 ? small : large;
  const volHalf = 100 * spec.halfSpread * (1 + 0.35 * z * z);
  const half = Math.max(0.5 * tick, vega * volHalf * (0.8 + 0.4 * random.uniform()) + 0.0015 * price);
  const middle = price + 0.25 * half * (2 * random.uniform() - 1);
  const bid = Math.max(0, Math.floor((middle - half) / tick + 1e-9) * tick);
  const ask = Math.max(bid + tick, Math.ceil((middle + half) / tick - 1e-9) * tick);
  return { tick, half, middle, bid, ask };
}

/** Deviation by which contracts are near or far. */
function deviationOf({ theta, humps }: Smile): number {
  return Math.sqrt(theta + (humps.length > 0 ? 0.15 : 0));
}

/** How much more is traded when the price has moved. */
function bustle(stir: number): number {
  return 0.6 + 0.4 * Math.min(stir, 4);
}

/** How near the money a contract is, from 0 to 1: calls a little above the forward, puts a little under it. */
function nearness(z: number, sign: 1 | -1): number {
  const centre = sign > 0 ? 0.4 : -0.6;
  return Math.exp(-0.5 * ((z - centre) / 1.1) ** 2);
}

/** How much more is traded of a strike that is round in steps of its list. */
function roundness({ strikes: { step, offset } }: UnderlyingSpec, strike: number): number {
  const n = Math.round((strike - offset) / step);
  return n % 20 === 0 ? 2.4 : n % 4 === 0 ? 1.5 : n % 2 === 0 ? 1 : 0.7;
}

/** In its last days as much of an expiry is closed as opened; before them more is opened. */
const CLOSING_YEARS = 5 / 365;

/**
 * What people trade: most near the money and at round strikes, in the near monthlies.
 *
 * @param hash of the underlying and the expiry; `ofDay` of those and the day
 */
function activityOf(
  spec: UnderlyingSpec,
  years: number,
  z: number,
  strike: number,
  sign: 1 | -1,
  hash: number,
  ofDay: number,
): Listed {
  const { activity, putCall } = spec;
  const ofSide = (2 * (sign > 0 ? 1 : putCall)) / (1 + putCall);
  const uniform = uniformAt(hash, strike * 10_000, sign);
  const liking = (0.4 + 1.2 * uniform ** 2) * roundness(spec, strike) * ofSide;
  const base = ((activity / 120) * nearness(z, sign) * liking) / (1 + 5 * years);
  const luck = uniformAt(ofDay, strike * 10_000, 3 * sign);
  return {
    strike,
    sign,
    busy: base * Math.exp(0.7 * normalInverse(uniformAt(ofDay, strike * 10_000, sign))),
    usual: Math.floor(16 * base * (1 - Math.exp(-4 * Math.max(0.05, 0.6 - years)))),
    opened: (years > CLOSING_YEARS ? 0.35 : 0) + 0.8 * (luck - 0.5),
  };
}

/** A contract's name inside an underlying. */
export const contractOf = ({ expiry, strike, side }: Pick<Quote, 'expiry' | 'strike' | 'side'>) =>
  `${expiry} ${strike} ${side}`;

/** A fault that was planted, and what it says. */
export interface Fault extends Pick<Quote, 'expiry' | 'strike' | 'side'> {
  kind: 'crossed' | 'zero-bid' | 'outlier' | 'stale';
}

/** A chain of fewer quotes would be told wrong by its faults alone. */
const FEWEST_FAULTY = 24;

/** Faults that a feed has now and then, planted so that checks can be seen to work: crossed, nobody's bid, wrong side. */
export function plantFaults(quotes: Quote[], price: number, random: Random): Fault[] {
  if (quotes.length < FEWEST_FAULTY) return [];
  const pick = () => quotes[random.below(quotes.length)]!;
  const crossed = pick();
  [crossed.bid, crossed.ask] = [crossed.ask, crossed.bid];
  const empty = pick();
  empty.bid = 0;
  empty.bidSize = 0;
  const faults = [faultOf('crossed', crossed), faultOf('zero-bid', empty)];
  // On the side in the money, where a price is far from what the other side says of the same strike.
  const inside = quotes.filter(({ strike, side, bid, ask }) => {
    const depth = side === 'C' ? price / strike - 1 : strike / price - 1;
    return depth > 0.01 && depth < 0.08 && bid > 1 && ask > bid;
  });
  const wrong = inside[random.below(inside.length)];
  if (!wrong) return faults;
  const lift = 0.02 * price;
  wrong.bid = Number((wrong.bid + lift).toFixed(4));
  wrong.ask = Number((wrong.ask + lift).toFixed(4));
  return [...faults, faultOf('outlier', wrong)];
}

function faultOf(kind: Fault['kind'], { expiry, strike, side }: Quote): Fault {
  return { kind, expiry, strike, side };
}

/**
 * Lets one contract stand still: its quote stays what it was some sessions ago, and nobody trades it.
 *
 * @param then the chain of that session
 */
export function plantStale(quotes: Quote[], then: readonly Quote[], price: number, random: Random): Fault[] {
  if (quotes.length < FEWEST_FAULTY) return [];
  const alive = then.filter(({ strike, bid, ask }) => Math.abs(strike / price - 1) < 0.05 && bid > 0.5 && ask > bid);
  const old = alive[random.below(Math.max(1, alive.length))];
  const stale = quotes.find(
    ({ expiry, strike, side }) => expiry === old?.expiry && strike === old.strike && side === old.side,
  );
  if (!old || !stale) return [];
  stale.bid = old.bid;
  stale.ask = old.ask;
  stale.volume = 0;
  stale.last = old.last;
  return [faultOf('stale', stale)];
}
