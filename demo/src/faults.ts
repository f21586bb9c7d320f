import type { Contract } from './listing';
import type { Quote } from './quotes';
import type { Random } from './random';

/** A fault that was planted, and what it says. */
export interface Fault extends Contract {
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
