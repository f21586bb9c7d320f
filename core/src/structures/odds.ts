import { basisLaw, type BasisChoice, type ExpiryFit } from '../chain';
import { exitProbability, touchProbability } from '../models';
import { oddsUnder, sampleExit } from '../odds';
import { curveVol } from '../surface';
import type { Payoff, PayoffLeg } from './payoff';

/** How likely legs that expire together come to something, on a basis. */
export interface StructureOdds {
  /** A leg ends in the money. */
  itm: number;
  /** The price meets a break-even on the way. */
  touch: number;
  /** They gain when they expire. */
  gain: number;
}

/** The one vol that a basis has for a whole expiry: that at the money, where each contract has its own. */
export function basisLevel({ basis, realizedVol, indexVol, manual }: BasisChoice, { atmVol }: ExpiryFit): number {
  if (basis === 'realized') return realizedVol;
  if (basis === 'index') return indexVol;
  if (basis === 'manual') return manual?.kind === 'vol' ? manual.value : atmVol + (manual?.value ?? NaN);
  return atmVol;
}

/**
 * The vol of a basis by log-moneyness: along the curve where it has one.
 *
 * @param own vol of a contract; that at the forward unless given
 */
export function volsOfBasis(fit: ExpiryFit, choice: BasisChoice, own = fit.atmVol): (k: number) => number {
  const { basis, manual } = choice;
  const { curve } = fit;
  const shift = basis === 'manual' ? (manual?.value ?? NaN) : 0;
  if (curve && isAlongCurve(choice)) return (k) => curveVol(curve, k) + shift;
  const vol = basis === 'own' ? own : basisLevel(choice, fit);
  return () => vol;
}

/** Whether a basis has a curve. */
export function isAlongCurve({ basis, manual }: BasisChoice): boolean {
  return basis === 'curve' || (basis === 'manual' && manual?.kind === 'shift');
}

/**
 * Odds that the price meets the nearest of some levels on either side before expiry. With two vols for two levels either is
 * reached by its own, and both by the mean of the two.
 */
function touchOdds(levels: readonly number[], spot: number, fit: ExpiryFit, choice: BasisChoice): number {
  const lower = levels.findLast((level) => level <= spot) ?? 0;
  const upper = levels.find((level) => level >= spot) ?? Infinity;
  if (lower <= 0 && upper === Infinity) return NaN;
  const { forward, years } = fit;
  if (choice.basis === 'realized' && choice.sample !== undefined) {
    const start = Math.log(spot / forward);
    const [low, high] = [lower > 0 ? Math.log(lower / forward) : -Infinity, Math.log(upper / forward)];
    return choice.sample ? sampleExit(choice.sample, [low, high], start) : NaN;
  }
  const vols = volsOfBasis(fit, choice);
  const volAt = (level: number) => vols(Math.log(level / forward));
  const drift = Math.log(forward / spot) / years;
  const reach = (level: number, vol: number) => touchProbability(spot, level, years, drift, vol);
  if (lower <= 0) return reach(upper, volAt(upper));
  if (upper === Infinity) return reach(lower, volAt(lower));
  const [under, over] = [volAt(lower), volAt(upper)];
  const mean = 0.5 * (under + over);
  const both = reach(lower, mean) + reach(upper, mean) - exitProbability(spot, [lower, upper], years, drift, mean);
  const [down, up] = [reach(lower, under), reach(upper, over)];
  return Math.min(1, Math.max(down, up, down + up - Math.max(0, both)));
}

/**
 * Odds of legs that expire together, on a basis.
 *
 * @param payoff what they pay at the cost that is asked about
 * @param spot the price that leads to the forward of the expiry
 */
export function structureOdds(
  legs: readonly PayoffLeg[],
  payoff: Payoff,
  { fit, spot, choice }: { fit: ExpiryFit; spot: number; choice: BasisChoice },
): StructureOdds {
  const law = basisLaw(fit, choice, basisLevel(choice, fit));
  if (!law) return { itm: NaN, touch: NaN, gain: NaN };
  const under = (level: number) => (level === Infinity ? 1 : level <= 0 ? 0 : oddsUnder(law, fit.forward, level));
  const ofSign = (sign: number) => legs.filter((leg) => leg.sign === sign).map(({ strike }) => strike);
  // Nothing is in the money between the highest put and the lowest call.
  const [put, call] = [Math.max(0, ...ofSign(-1)), Math.min(Infinity, ...ofSign(1))];
  return {
    itm: put < call ? 1 - under(call) + under(put) : 1,
    touch: touchOdds(payoff.breakEvens, spot, fit, choice),
    gain: payoff.gains.reduce((sum, { from, to }) => sum + under(to) - under(from), 0),
  };
}
