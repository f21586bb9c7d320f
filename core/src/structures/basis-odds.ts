import type { Basis, BasisChoice } from '../chain';
import { quantileOf } from '../distributions';
import { touchProbability } from '../models';
import {
  curveLaw,
  lognormalLaw,
  oddsUnder,
  sampleLaw,
  sampleTouch,
  zoneOdds,
  type Law,
  type Sample,
  type Zone,
} from '../odds';
import { isOption, type MarketStructure } from './moved';
import { isAlongCurve, volsOfBasis } from './odds';
import { outcomeOf, outcomeUnder, type Outcome } from './outcome';
import type { Profile } from './profile';
import { MovedExpiry } from './moved-expiry';
import { LEAST_YEARS, type Scenario } from './scenario';

export type OddsBasis = Basis | 'past';

/** How a structure comes out by one basis. */
export interface BasisOdds extends Outcome {
  basis: OddsBasis;
  /** That it gains as much as it can. */
  mostProfit: number;
  /** Between break-evens. */
  zones: Zone[];
  /** To touch short strikes and break-evens on the way. */
  touch: { level: number; probability: number }[];
}

/** One of equally likely past moves, and what is gained at its end. */
export interface PastDot {
  price: number;
  profit: number;
}

/** What a structure comes to at its horizon. */
export interface HorizonProfit {
  readonly profile: Profile;
  readonly profitAt: (price: number) => number;
}

/** Where the price may be at the horizon by a basis. */
interface HorizonLaw {
  readonly law: Law;
  readonly forward: number;
  /** About one deviation of it. */
  readonly spread: number;
  /** The past that it is drawn from, where it is that. */
  readonly sample: Sample | null;
  /** Odds that the price meets a level on the way. */
  readonly touch: (level: number) => number;
}

/** Nothing that moves a law of the curve. */
function isStill(scenario: Scenario, spot: number): boolean {
  const { price, elapsed, volShift, volShifts, volFactor, skewShift, rateShift } = scenario;
  const isVolStill = volShift === 0 && volShifts.size === 0 && volFactor === 1 && skewShift === 0;
  return isVolStill && price === spot && elapsed === 0 && rateShift === 0;
}

/** @returns null where the basis has no answer */
function lawOf(basis: OddsBasis, structure: MarketStructure, fit: MovedExpiry['fit'], own: number): HorizonLaw | null {
  const { around, scenario, past } = structure;
  const choice: BasisChoice = { ...structure.choice, basis: basis === 'past' ? 'level' : basis };
  const vols = volsOfBasis(fit, choice, own);
  const expiry = new MovedExpiry(fit, around, vols);
  const left = expiry.left(scenario);
  const forward = expiry.forward(scenario);
  if (!(forward > 0) || !(left > LEAST_YEARS)) return null;
  const start = Math.log(scenario.price / forward);
  if (basis === 'past') {
    const sample = past(fit, left / fit.years, start);
    const law = sample && sampleLaw(sample.ends, sample.independent);
    const touch = (level: number) => sampleTouch(sample!, Math.log(level / forward), start);
    return law && { law, forward, spread: NaN, sample, touch };
  }
  const touchBy = (volAt: (level: number) => number) => (level: number) =>
    touchProbability(scenario.price, level, left, -start / left, volAt(level));
  if (isAlongCurve(choice)) {
    const spread = expiry.spread(scenario);
    const isAsFitted = basis === 'curve' && fit.curve !== null && isStill(scenario, around.spot);
    const law = isAsFitted ? curveLaw(fit.curve!) : expiry.law(scenario);
    return spread > 0
      ? { law, forward, spread, sample: null, touch: touchBy((level) => expiry.vol(level, scenario)) }
      : null;
  }
  // What is implied moves with the scenario; what somebody says, or what was, does not.
  const isImplied = basis === 'level' || basis === 'own';
  const vol = isImplied ? expiry.spread(scenario) / Math.sqrt(left) : vols(0);
  const spread = vol * Math.sqrt(left);
  return vol > 0 ? { law: lognormalLaw(spread), forward, spread, sample: null, touch: touchBy(() => vol) } : null;
}

/** So many quantiles of a large sample say what all of it does. */
const MOST_ENDS = 2000;

/** Prices at the ends of a sample, or at as many quantiles of it. */
function endsOf({ ends }: Sample, forward: number, most: number): Float64Array {
  const count = Math.min(most, ends.length);
  const isAll = count === ends.length;
  return Float64Array.from(
    { length: count },
    (_, i) => forward * Math.exp(isAll ? ends[i]! : quantileOf(ends, (i + 0.5) / count)),
  );
}

/** Share of the most profit that rounding takes off it. */
const ROUNDING = 1e-9;

function oddsBy(
  basis: OddsBasis,
  { law, forward, spread, sample, touch }: HorizonLaw,
  { legs }: MarketStructure,
  { profile, profitAt }: HorizonProfit,
  knots: readonly number[],
): BasisOdds {
  const under = (price: number) => oddsUnder(law, forward, price);
  const within = (from: number, to: number) => under(to) - under(from);
  const { breakEvens, gains, maxProfit, stretches } = profile;
  const moments = sample
    ? outcomeOf(endsOf(sample, forward, MOST_ENDS), profitAt)
    : outcomeUnder(law, { forward, spread }, profitAt, profile, knots);
  const least = maxProfit - ROUNDING * Math.abs(maxProfit);
  const last = stretches.at(-1)!;
  const most = stretches.filter(({ atFrom, atTo }) => Math.min(atFrom, atTo) >= least);
  const sold = legs.filter(isOption).filter(({ quantity }) => quantity < 0);
  const levels = [...new Set([...sold.map(({ strike }) => strike), ...breakEvens])].filter((level) => level > 0);
  return {
    ...moments,
    basis,
    profit: gains.reduce((sum, { from, to }) => sum + within(from, to), 0),
    mostProfit: Number.isFinite(maxProfit)
      ? most.reduce((sum, { from, to }) => sum + within(from, to), last.atTo >= least ? 1 - under(last.to) : 0)
      : NaN,
    zones: zoneOdds(
      law,
      forward,
      breakEvens.filter((price) => price > 0),
    ),
    touch: levels.sort((a, b) => a - b).map((level) => ({ level, probability: touch(level) })),
  };
}

const DOTS = 20;

/**
 * Odds at the horizon by every basis that has an answer, and one in twenty of the past moves each.
 *
 * @param own vol of the options that expire there, weighted by vega
 */
export function oddsAtHorizon(
  bases: readonly OddsBasis[],
  structure: MarketStructure,
  { fit }: MovedExpiry,
  own: number,
  profit: HorizonProfit,
): { odds: BasisOdds[]; dots: PastDot[] } {
  const knots = structure.legs.filter(isOption).map(({ strike }) => strike);
  let dots: PastDot[] = [];
  const odds = bases.flatMap((basis) => {
    const found = lawOf(basis, structure, fit, own);
    if (!found) return [];
    const { sample, forward } = found;
    if (sample)
      dots = Array.from(endsOf(sample, forward, DOTS), (price) => ({ price, profit: profit.profitAt(price) }));
    return [oddsBy(basis, found, structure, profit, knots)];
  });
  return { odds, dots };
}
