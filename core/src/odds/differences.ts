import { oddsAbove } from './odds-above';

/** The volatilities that odds of a level can be taken from; NaN where there is none. */
export interface OddsAssumptions {
  /** +1 for ending over the level, −1 for ending under it. */
  readonly sign: number;
  readonly level: number;
  readonly spot: number;
  readonly forward: number;
  readonly years: number;
  /** At the money of the expiry. */
  readonly atmVol: number;
  /** The curve at the level, and its slope ∂σ/∂k there. */
  readonly curveVol: number;
  readonly curveSlope: number;
  readonly ownVol: number;
  readonly indexVol: number;
  readonly realizedVol: number;
}

export const CAUSES = ['drift', 'skew', 'slope', 'own', 'index', 'realized'] as const;
export type Cause = (typeof CAUSES)[number];

/** What one assumption changes, all those before it kept. */
export interface Difference {
  cause: Cause;
  without: number;
  with: number;
  /** with − without. */
  by: number;
}

/**
 * What each assumption does to the odds of ending beyond a level. From the price itself at the level of the expiry (no drift),
 * one after the other: the `drift` to the forward, the `skew` (the curve's vol at the level in place of the level's), the
 * `slope` of the skew (the density of the curve in place of N(d₂)). Beside them, each against its nearest neighbour: the
 * contract's `own` vol in place of the curve's, the `index` or the `realized` vol in place of the level.
 *
 * @returns those that can be told, the largest first
 */
export function oddsDifferences(given: OddsAssumptions): Difference[] {
  const { sign, level, spot, forward, years, atmVol, curveVol, curveSlope, ownVol, indexVol, realizedVol } = given;
  const odds = (vol: number, slope = 0, from = forward) => {
    const above = oddsAbove(Math.log(level / from), vol, slope, years);
    return sign > 0 ? above : 1 - above;
  };
  const atLevel = odds(atmVol);
  const atCurve = odds(curveVol);
  const steps: [Cause, number, number][] = [
    ['drift', odds(atmVol, 0, spot), atLevel],
    ['skew', atLevel, atCurve],
    ['slope', atCurve, odds(curveVol, curveSlope)],
    ['own', atCurve, odds(ownVol)],
    ['index', atLevel, odds(indexVol)],
    ['realized', atLevel, odds(realizedVol)],
  ];
  return steps
    .map(([cause, without, withIt]) => ({ cause, without, with: withIt, by: withIt - without }))
    .filter(({ by }) => Number.isFinite(by))
    .sort((a, b) => Math.abs(b.by) - Math.abs(a.by));
}
