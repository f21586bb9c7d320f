import { rootBetween } from '../distributions';
import { unmoved } from '../structures';
import type { LedgerLeg } from './ledger';
import type { MarketAt } from './market';

const POINTS = 49;
const REACH = 4;
const NARROW = 1e-7;

/**
 * Prices at which what is held of one underlying would be worth so much now, by its curves: looked for within four deviations of the
 * price, each to a ten-millionth of that.
 *
 * @param legs of one underlying
 * @param worth in money
 * @param deviation of the logarithm of the price
 */
export function evensNow(legs: readonly LedgerLeg[], market: MarketAt, worth: number, deviation: number): number[] {
  const { spot } = market.market.around;
  if (!(deviation > 0) || !(spot > 0) || legs.length === 0) return [];
  const gap = (at: number) => {
    const scenario = unmoved(spot * Math.exp(at * deviation));
    return legs.reduce(
      (sum, { contract, quantity, multiplier }) =>
        sum + Number(quantity) * Number(multiplier) * market.value(contract, scenario),
      -worth,
    );
  };
  const evens: number[] = [];
  let [before, gapBefore] = [-REACH, gap(-REACH)];
  for (let i = 1; i < POINTS; i++) {
    const at = -REACH + (2 * REACH * i) / (POINTS - 1);
    const gapAt = gap(at);
    if (gapBefore * gapAt < 0) {
      evens.push(spot * Math.exp(rootBetween(gap, before, at, gapBefore, gapAt, NARROW) * deviation));
    }
    [before, gapBefore] = [at, gapAt];
  }
  return evens;
}
