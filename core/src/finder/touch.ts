import { exitProbability, touchProbability } from '../models';
import type { SolvedExpiry, SolvedMarket } from './solved';
import { MOST_LEGS, type CandidateTable } from './table';

/**
 * Odds that a sold strike is met on the way: of those on one side of the price the nearest, of two sides as the odds of legs have
 * it (`structureOdds`). Nothing where none is sold.
 */
export function touchOf(
  solved: SolvedMarket,
  { legs, quantities }: CandidateTable,
  at: number,
  expiry: SolvedExpiry,
): number {
  const { contracts, spot, expiries } = solved;
  let below = -1;
  let above = -1;
  for (let leg = 0; leg < MOST_LEGS; leg++) {
    const id = legs[MOST_LEGS * at + leg]!;
    if (id < 0) break;
    if (quantities[MOST_LEGS * at + leg]! > 0 || expiries[contracts.expiry[id]!] !== expiry) continue;
    const strike = contracts.strike[id]!;
    if (strike <= spot && (below < 0 || strike > contracts.strike[below]!)) below = id;
    if (strike >= spot && (above < 0 || strike < contracts.strike[above]!)) above = id;
  }
  if (below < 0 && above < 0) return 0;
  if (below < 0) return contracts.touch[above]!;
  if (above < 0) return contracts.touch[below]!;
  const key = below * contracts.count + above;
  const known = expiry.touched.get(key);
  if (known !== undefined) return known;
  const { fit } = expiry;
  const [lower, upper] = [contracts.strike[below]!, contracts.strike[above]!];
  const mean = 0.5 * (contracts.vol[below]! + contracts.vol[above]!);
  const drift = Math.log(fit.forward / spot) / fit.years;
  const reach = (level: number) => touchProbability(spot, level, fit.years, drift, mean);
  const both = reach(lower) + reach(upper) - exitProbability(spot, [lower, upper], fit.years, drift, mean);
  const [down, up] = [contracts.touch[below]!, contracts.touch[above]!];
  const told = Math.min(1, Math.max(down, up, down + up - Math.max(0, both)));
  expiry.touched.set(key, told);
  return told;
}
