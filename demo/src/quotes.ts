import {
  americanExpiry,
  impliedVols,
  makeFirstOrder,
  MILLISECONDS_PER_DAY,
  normalInverse,
  priceEuropean,
  namedExpiry,
} from '@umwelt/core';
import { roundTo } from './path';
import { hashOf, Random, uniformAt } from './random';
import { expiriesAt, smileOf, volAt, type Moment, type Smile } from './smile';
import type { UnderlyingSpec } from './world';

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

/** The strikes that are quoted for an expiry. */
export function strikesOf({ strikes: { step, offset, most } }: UnderlyingSpec, smile: Smile): number[] {
  const width = smile.humps.length > 0 ? 0.25 : 0;
  const reach = Math.max(0.04, 3.1 * Math.sqrt(smile.theta) + width);
  const from = smile.forward * Math.exp(-1.15 * reach);
  const to = smile.forward * Math.exp(0.9 * reach);
  let apart = step;
  while ((to - from) / apart > most) apart *= 2;
  const strikes: number[] = [];
  for (let n = Math.ceil((from - offset) / apart); n * apart + offset <= to; n++) {
    strikes.push(Number((n * apart + offset).toFixed(6)));
  }
  return strikes;
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

/** What stays while a market is watched: the strikes of a session by expiry, and each quote until it is renewed. */
export interface Held {
  strikes: ReadonlyMap<string, readonly number[]>;
  /** Called before a contract is quoted, so that its luck is that of its last renewal. */
  renew: (random: Random, hash: number, strike: number, sign: 1 | -1) => void;
}

/**
 * The chain of an underlying at a moment.
 *
 * @param stir by how many deviations the price has moved since the session before
 * @param ofSession share of the session that is over
 * @param held without it strikes and luck are those of the moment
 */
export function quotesAt(spec: UnderlyingSpec, moment: Moment, stir: number, ofSession = 1, held?: Held): Quote[] {
  const random = new Random(`${spec.symbol} ${moment.asof}`);
  const ofDay = hashOf(`${spec.symbol} ${moment.day}`);
  const quotes: Quote[] = [];
  for (const expiry of expiriesAt(moment.day, spec)) {
    const smile = smileOf(spec, moment, expiry);
    if (smile.years > 0) addExpiry(quotes, spec, moment, expiry, smile, { random, ofDay, stir, ofSession, held });
  }
  return quotes;
}

interface Trading {
  random: Random;
  /** Hash of the underlying and the day, for what stays through the day. */
  ofDay: number;
  stir: number;
  ofSession: number;
  held: Held | undefined;
}

function addExpiry(
  quotes: Quote[],
  spec: UnderlyingSpec,
  moment: Moment,
  expiry: string,
  smile: Smile,
  { random, ofDay, stir, ofSession, held }: Trading,
): void {
  const strikes = held?.strikes.get(expiry) ?? strikesOf(spec, smile);
  const expiryDay = Date.parse(namedExpiry(expiry)!.expiry) / MILLISECONDS_PER_DAY;
  const hash = hashOf(`${spec.symbol} ${expiry}`);
  const values = valuesOf(smile, strikes, hash, spec.exercise === 'american' ? moment.price : null);
  const deviation = deviationOf(smile);
  const traded = tradedShare(ofSession) * bustle(stir);
  for (const sign of [1, -1] as const) {
    // The broken expiry's calls are quoted as if the price were another.
    const lift = expiry === spec.brokenExpiry && sign > 0 ? 0.07 * moment.price : 0;
    for (let i = 0; i < strikes.length; i++) {
      const strike = strikes[i]!;
      const at = sign > 0 ? i : strikes.length + i;
      held?.renew(random, hash, strike, sign);
      const z = Math.log(strike / smile.forward) / deviation;
      const { tick, half, middle, bid, ask } = quoteAround(spec, values.price[at]! + lift, values.vega[at]!, z, random);
      const { near, base, built, busy } = activityOf(spec, smile, z, strike, sign, hash, ofDay ^ expiryDay);
      const volume = Math.floor(busy * traded);
      const depth = 6 + 40 * near;
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
        openInterest: Math.floor(16 * base * built),
      });
    }
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

/**
 * What people trade: most near the money, in the near monthlies; interest builds as the expiry comes nearer.
 *
 * @param hash of the underlying and the expiry; `ofDay` of those and the day
 */
function activityOf(
  { activity }: UnderlyingSpec,
  { years }: Smile,
  z: number,
  strike: number,
  sign: 1 | -1,
  hash: number,
  ofDay: number,
) {
  const centre = sign > 0 ? 0.4 : -0.6;
  const near = Math.exp(-0.5 * ((z - centre) / 1.1) ** 2);
  const uniform = uniformAt(hash, strike * 10_000, sign);
  const base = ((activity / 120) * near * (0.4 + 1.2 * uniform ** 2)) / (1 + 5 * years);
  return {
    near,
    base,
    built: 1 - Math.exp(-4 * Math.max(0.05, 0.6 - years)),
    /** Contracts on a day of ordinary moves. */
    busy: base * Math.exp(0.7 * normalInverse(uniformAt(ofDay, strike * 10_000, sign))),
  };
}

/** What has been traded of each contract, as {@link quotesAt} says it, by contract. */
export function volumesOf(
  spec: UnderlyingSpec,
  moment: Moment,
  stir: number,
  ofSession: number,
  held?: Pick<Held, 'strikes'>,
): Map<string, number> {
  const ofDay = hashOf(`${spec.symbol} ${moment.day}`);
  const traded = tradedShare(ofSession) * bustle(stir);
  const volumes = new Map<string, number>();
  for (const expiry of expiriesAt(moment.day, spec)) {
    const smile = smileOf(spec, moment, expiry);
    if (smile.years <= 0) continue;
    const deviation = deviationOf(smile);
    const hash = hashOf(`${spec.symbol} ${expiry}`);
    const expiryDay = Date.parse(namedExpiry(expiry)!.expiry) / MILLISECONDS_PER_DAY;
    for (const strike of held?.strikes.get(expiry) ?? strikesOf(spec, smile)) {
      const z = Math.log(strike / smile.forward) / deviation;
      for (const sign of [1, -1] as const) {
        const { busy } = activityOf(spec, smile, z, strike, sign, hash, ofDay ^ expiryDay);
        volumes.set(contractOf({ expiry, strike, side: sign > 0 ? 'C' : 'P' }), Math.floor(busy * traded));
      }
    }
  }
  return volumes;
}

/** A contract's name inside an underlying. */
export const contractOf = ({ expiry, strike, side }: Pick<Quote, 'expiry' | 'strike' | 'side'>) =>
  `${expiry} ${strike} ${side}`;

/** A fault that was planted, and what it says. */
export interface Fault extends Pick<Quote, 'expiry' | 'strike' | 'side'> {
  kind: 'crossed' | 'zero-bid' | 'outlier' | 'stale';
}

/** Faults that a feed has now and then, planted so that checks can be seen to work: crossed, nobody's bid, wrong side. */
export function plantFaults(quotes: Quote[], price: number, random: Random): Fault[] {
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
