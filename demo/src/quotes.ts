import { americanExpiry, impliedVols, makeFirstOrder, priceEuropean } from '@umwelt/core';
import { deviationOf, nearness, turnover, type Contract, type Listing, type OpenInterest } from './listing';
import { roundTo } from './path';
import { hashOf, Random } from './random';
import { smileOf, volAt, type Moment, type Smile } from './smile';
import type { UnderlyingSpec } from './world';

/** One line of a chain. A zero bid is a quote nobody bids for. */
export interface Quote extends Contract {
  bid: number;
  ask: number;
  bidSize: number;
  askSize: number;
  last: number | null;
  volume: number;
  openInterest: number;
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
  const traded = turnover(stir, ofSession);
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
