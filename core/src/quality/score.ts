/** The parts of the quality of an expiry, each from 0 (worst) to 1. */
export interface QualityParts {
  /** Share of contracts that can be used. */
  usable: number;
  /** Tightness of the quotes near the money. */
  spread: number;
  /** How closely the curve meets the quotes, in units of their half spreads. */
  fit: number;
  /** How much of one deviation to either side of the forward the usable strikes cover. */
  coverage: number;
  /** Few stale quotes. */
  fresh: number;
}

/** The parts of several expiries as those of an underlying: each weighted by its contracts. NaN without any. */
export function underlyingParts(
  expiries: readonly { contracts: number; qualityParts: QualityParts }[],
): Record<keyof QualityParts, number> {
  const contracts = expiries.reduce((sum, one) => sum + one.contracts, 0);
  const of = (name: keyof QualityParts) =>
    contracts > 0 ? expiries.reduce((sum, one) => sum + one.contracts * one.qualityParts[name], 0) / contracts : NaN;
  return { usable: of('usable'), spread: of('spread'), fit: of('fit'), coverage: of('coverage'), fresh: of('fresh') };
}

/** Weights of the parts; they add up to 1 (our own choice: what can be used at all counts most). */
export const QUALITY_WEIGHTS: Readonly<Record<keyof QualityParts, number>> = {
  usable: 0.3,
  spread: 0.2,
  fit: 0.2,
  coverage: 0.2,
  fresh: 0.1,
};

const clamp = (value: number) => Math.max(0, Math.min(1, value));

/** Spread over mid of a quote near the money that is as good as can be, and one that is of no use. */
const TIGHT = 0.01;
const LOOSE = 0.6;
/** Root mean square misses of the curve in half spreads: as good as can be, and of no use. */
const CLOSE = 0.5;
const FAR = 5;
/** From this share of stale quotes on nothing is fresh. */
const ALL_STALE = 0.2;

/** What the parts are made from. */
export interface QualityInput {
  contracts: number;
  usable: number;
  stale: number;
  /** Spread over mid of the contracts nearest to the money; NaN for none. */
  spread: number;
  /** NaN without a curve. */
  errorInHalfSpreads: number;
  /** Log-moneyness of the lowest and highest strike in use; NaN for none. */
  lowest: number;
  highest: number;
  /** σ√T at the forward; NaN without a curve. */
  deviation: number;
}

/** The parts of the quality of an expiry. What cannot be told is worst. */
export function qualityParts(input: QualityInput): QualityParts {
  const { contracts, usable, stale, spread, errorInHalfSpreads, lowest, highest, deviation } = input;
  // By ratio: from 1 % to 2 % is as much worse as from 20 % to 40 %.
  const tightness = 1 - Math.log(spread / TIGHT) / Math.log(LOOSE / TIGHT);
  const covered = Math.min(highest, deviation) - Math.max(lowest, -deviation);
  const parts = {
    usable: contracts > 0 ? usable / contracts : 0,
    spread: clamp(tightness),
    fit: clamp(1 - (errorInHalfSpreads - CLOSE) / (FAR - CLOSE)),
    coverage: clamp(covered / (2 * deviation)),
    fresh: contracts > 0 ? clamp(1 - stale / contracts / ALL_STALE) : 0,
  };
  for (const name of Object.keys(parts) as (keyof QualityParts)[]) if (Number.isNaN(parts[name])) parts[name] = 0;
  return parts;
}

/** The score of an expiry, 0…100, from its parts. */
export function qualityScore(parts: QualityParts): number {
  let sum = 0;
  for (const name of Object.keys(QUALITY_WEIGHTS) as (keyof QualityParts)[]) sum += QUALITY_WEIGHTS[name] * parts[name];
  return 100 * sum;
}
