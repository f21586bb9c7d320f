import { makeFirstOrder, priceEuropean } from '@umwelt/core';
import type { Session } from './path';
import { Random, uniformOf } from './random';
import { expiriesAt, smileOf, volAt, type Smile } from './smile';
import type { UnderlyingSpec } from './world';

/** One line of a chain. A zero bid is a quote nobody bids for. */
export interface Quote {
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

const MOST_STRIKES = 45;

function strikesOf(spec: UnderlyingSpec, smile: Smile): number[] {
  const reach = Math.max(0.06, 3.1 * Math.sqrt(smile.theta));
  const from = smile.forward * Math.exp(-1.15 * reach);
  const to = smile.forward * Math.exp(0.9 * reach);
  let step = spec.strikeStep;
  while ((to - from) / step > MOST_STRIKES) step *= 2;
  const strikes: number[] = [];
  for (let n = Math.ceil(from / step); n * step <= to; n++) strikes.push(n * step);
  return strikes;
}

/** Prices and vegas of all strikes, calls first, then puts. */
function valuesOf(spec: UnderlyingSpec, smile: Smile, expiry: string, strikes: readonly number[]) {
  const count = 2 * strikes.length;
  const column = (value: (i: number) => number) => Float64Array.from({ length: count }, (_, i) => value(i));
  const strikeAt = (i: number) => strikes[i % strikes.length]!;
  const out = makeFirstOrder(count);
  const input = {
    spot: column(() => smile.forward),
    strike: column(strikeAt),
    years: column(() => smile.years),
    rate: column(() => smile.rate),
    yield: column(() => smile.rate),
    vol: column((i) => volAt(smile, strikeAt(i), `${spec.symbol} ${expiry} ${strikeAt(i)}`)),
    sign: column((i) => (i < strikes.length ? 1 : -1)),
  };
  priceEuropean(input, out, count);
  return out;
}

/** The chain of an underlying at the snapshot of a session. */
export function quotesAt(spec: UnderlyingSpec, session: Session, previous: Session): Quote[] {
  const random = new Random(`${spec.symbol} ${session.day}`);
  return expiriesAt(session.day, spec.weeklies).flatMap((expiry) => {
    const smile = smileOf(spec, session, expiry);
    const strikes = strikesOf(spec, smile);
    const values = valuesOf(spec, smile, expiry, strikes);
    const stir = Math.abs(Math.log(session.snapshotPrice / previous.close)) / (session.vol / 16);
    return [0, 1].flatMap((sideIndex) =>
      strikes.map((strike, i) => {
        const at = sideIndex * strikes.length + i;
        const z = Math.log(strike / smile.forward) / Math.sqrt(smile.theta);
        const side = sideIndex === 0 ? 'C' : 'P';
        const sides = quoteAround(spec, values.price[at]!, values.vega[at]!, z, random);
        const trade = tradingOf(spec, smile, `${spec.symbol} ${expiry} ${strike} ${side}`, z, stir, side, random);
        const isTraded = trade.volume > 0;
        const last = isTraded
          ? Math.max(sides.tick, roundTo(sides.middle + sides.half * (random.uniform() - 0.5), sides.tick))
          : null;
        return { expiry, strike, side, bid: sides.bid, ask: sides.ask, ...trade, last } satisfies Quote;
      }),
    );
  });
}

function roundTo(value: number, tick: number): number {
  return Math.round(value / tick) * tick;
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

/** Sizes, volume and open interest: most near the money, in the near monthlies and on round strikes. */
function tradingOf(
  spec: UnderlyingSpec,
  smile: Smile,
  contract: string,
  z: number,
  stir: number,
  side: 'C' | 'P',
  random: Random,
) {
  const centre = side === 'C' ? 0.4 : -0.6;
  const near = Math.exp(-0.5 * ((z - centre) / 1.1) ** 2);
  const byTime = 1 / (1 + 5 * smile.years);
  const popularity = near * byTime * (0.4 + 1.2 * uniformOf(`${contract} popularity`) ** 2);
  const base = (spec.activity / 120) * popularity;
  const volume = Math.floor(base * Math.exp(0.7 * random.normal()) * (0.6 + 0.4 * Math.min(stir, 4)));
  const built = 1 - Math.exp(-4 * Math.max(0.05, 0.6 - smile.years));
  const openInterest = Math.floor(16 * base * built * (0.9 + 0.2 * random.uniform()));
  const size = () => 1 + Math.floor((6 + 40 * near) * Math.exp(0.6 * random.normal()));
  return { bidSize: size(), askSize: size(), volume, openInterest };
}

/** Faults that a feed has now and then, planted so that checks can be seen to work. */
export function plantFaults(quotes: Quote[], older: Quote[] | null, random: Random): void {
  const pick = () => quotes[Math.floor(random.uniform() * quotes.length)]!;
  const crossed = pick();
  [crossed.bid, crossed.ask] = [crossed.ask, crossed.bid];
  const empty = pick();
  empty.bid = 0;
  empty.bidSize = 0;
  const outlier = quotes.filter((quote) => quote.bid > 1)[Math.floor(quotes.length / 5)];
  if (outlier) {
    outlier.bid = Number((outlier.bid * 1.6).toFixed(2));
    outlier.ask = Number((outlier.ask * 1.6).toFixed(2));
  }
  const stale = pick();
  const before = older?.find(
    (old) => old.expiry === stale.expiry && old.strike === stale.strike && old.side === stale.side,
  );
  if (before) {
    stale.bid = before.bid;
    stale.ask = before.ask;
    stale.volume = 0;
    stale.last = before.last;
  }
}
