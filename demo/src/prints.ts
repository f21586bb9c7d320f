import { roundTo } from './path';
import { Random } from './random';
import { contractOf } from './listing';
import type { Quote } from './quotes';

/** One trade as it is reported. */
export interface Print {
  time: number;
  /** Its name, as that of a quote. */
  expiry: string;
  strike: number;
  side: 'C' | 'P';
  price: number;
  size: number;
  /** Legs of one trade share it. */
  group: string;
}

/** Share of an underlying's prints that are legs of trades of several. */
const GROUPED_SHARE = 0.12;

/**
 * The tape of some minutes: the volume that each contract has gained is cut into trades at prices between bid and ask.
 * Some are legs of one trade: neighbouring strikes of an expiry, or call and put of one strike, at the same time in the
 * same size.
 *
 * @param quotes the chain at the end of those minutes
 * @param gained contracts traded in them, by contract
 * @param from milliseconds, inclusive; `to` exclusive
 */
export function printsOf(
  symbol: string,
  quotes: readonly Quote[],
  gained: ReadonlyMap<string, number>,
  from: number,
  to: number,
  optionTick: readonly [number, number],
): Print[] {
  const random = new Random(`${symbol} ${from} prints`);
  const left = new Map(gained);
  const prints: Print[] = [];
  const timeAt = () => from + Math.floor((random.uniform() * (to - from)) / 1000) * 1000;
  const add = (quote: Quote, size: number, time: number, group: string, lean: number) => {
    const tick = quote.bid + quote.ask < 6 ? optionTick[0] : optionTick[1];
    const [low, high] = [Math.min(quote.bid, quote.ask), Math.max(quote.bid, quote.ask)];
    const price = Math.max(tick, roundTo(low + (high - low) * lean, tick));
    prints.push({ time, expiry: quote.expiry, strike: quote.strike, side: quote.side, price, size, group });
    left.set(contractOf(quote), (left.get(contractOf(quote)) ?? 0) - size);
  };
  const lean = () => Math.min(1, Math.max(0, 0.5 + 0.35 * random.normal()));
  const traded = quotes.filter((quote) => (gained.get(contractOf(quote)) ?? 0) > 0);
  for (const [i, quote] of traded.entries()) {
    if (random.uniform() > GROUPED_SHARE) continue;
    const other = traded.find(
      (one, j) =>
        j > i &&
        one.expiry === quote.expiry &&
        (one.side === quote.side ? one.strike !== quote.strike : one.strike === quote.strike),
    );
    const most = other && Math.min(left.get(contractOf(quote)) ?? 0, left.get(contractOf(other)) ?? 0);
    if (!other || !most || most < 1) continue;
    const size = 1 + random.below(Math.min(most, 60));
    const time = timeAt();
    const group = `${symbol}-${(time / 1000).toString(36)}-${i}`;
    add(quote, size, time, group, lean());
    add(other, size, time, group, lean());
  }
  for (const quote of traded) {
    for (let rest = left.get(contractOf(quote)) ?? 0; rest > 0; rest = left.get(contractOf(quote)) ?? 0) {
      const typical = Math.ceil((0.1 + random.uniform() ** 2) * Math.max(4, rest / 3));
      add(quote, Math.min(rest, typical), timeAt(), '', lean());
    }
  }
  return prints.sort((a, b) => a.time - b.time);
}
