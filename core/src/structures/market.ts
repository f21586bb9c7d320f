import { BASES, sideOf } from '../chain';
import { earlyAssignments, type EarlyAssignment } from './assignment';
import { oddsAtHorizon, type BasisOdds, type HorizonProfit, type PastDot } from './basis-odds';
import {
  isOption,
  MovedStructure,
  payoffLegOf,
  summed,
  type Fill,
  type MarketLeg,
  type MarketStructure,
} from './moved';
import { meanVol, ownVolAt } from './own-vol';
import { deviationsAt, priceStructure, type PricedStructure } from './price';
import { profileOfLegs, type Profile } from './profile';
import { MOVED_GREEKS, type Depth, type MovedGreek, type MovedValues } from './columns';
import type { MovedExpiry } from './moved-expiry';
import type { Scenario } from './scenario';
import { USUAL_DEVIATION } from './usual';

/** What is known of one leg, for one unit of it. */
export interface MarketLegValues extends MovedValues {
  bid: number;
  ask: number;
  vol: number;
  entry: number;
  /** Where its entry comes from: a leg without a quote is entered at its theory. */
  enteredBy: 'typed' | 'fill' | 'theory';
}

/** Profit now by moves of the price in deviations of the horizon, and by factors of vol. */
export interface Stress {
  moves: number[];
  volFactors: number[];
  /** A row for each factor. */
  pnl: number[][];
}

export interface MarketEvaluation {
  /** With the fees. */
  cost: Pick<PricedStructure, 'worst' | 'mid' | 'best'>;
  fees: number;
  /** What was paid, with the fees. */
  entry: number;
  values: MovedValues;
  skew: number;
  curvature: number;
  /** Years from the as-of to the first expiry that is still to come; null without options. */
  horizon: number | null;
  /** One deviation of the price until then. */
  deviation: number;
  profile: Profile;
  capitalAtRisk: number;
  /** Mean vols of what is bought and sold, weighted by vega. */
  volBought: number;
  volSold: number;
  legs: MarketLegValues[];
  /** Sold legs that may be assigned early. */
  assignments: EarlyAssignment[];
  odds: BasisOdds[];
  /** Twenty past moves of the length that is left; none where too few are held. */
  dots: PastDot[];
  stress: Stress;
}

/** The price of one unit by a fill: what is bought costs more at worst, what is sold brings less. */
function filledAt(fill: Fill, quantity: number, bid: number, ask: number): number {
  const [mid, half] = [0.5 * (bid + ask), 0.5 * (ask - bid) * Math.sign(quantity)];
  const share = typeof fill === 'object' ? fill.slippage : { worst: 1, mid: 0, best: -1 }[fill];
  return mid + share * half;
}

/** Bid and ask of a leg; the underlying is traded at its price. */
function quoteOf({ slices, around }: MarketStructure, leg: MarketLeg): { bid: number; ask: number } {
  if (!isOption(leg)) return { bid: around.spot, ask: around.spot };
  const { bid, ask } = sideOf(slices[leg.slice]!, leg.side);
  return { bid: bid[leg.index]!, ask: ask[leg.index]! };
}

/** A leg with its quote, its vol and what it was entered at. */
function legValues(structure: MarketStructure, leg: MarketLeg, values: MovedValues, vol: number): MarketLegValues {
  const quote = quoteOf(structure, leg);
  const filled = filledAt(structure.fill, leg.quantity, quote.bid, quote.ask);
  const isFilled = Number.isFinite(filled);
  return {
    ...{ ...values, ...quote, vol },
    entry: leg.entry ?? (isFilled ? filled : values.value),
    enteredBy: leg.entry !== undefined ? 'typed' : isFilled ? 'fill' : 'theory',
  };
}

/** Costs, skew and curvature, as {@link priceStructure} has them. */
function pricedOf({ slices, legs }: MarketStructure, known: readonly MarketLegValues[]): PricedStructure {
  return priceStructure(
    legs.map((leg, i) => {
      const { value: theory, bid, ask, delta, gamma, theta, vega } = known[i]!;
      const deviations = isOption(leg) ? deviationsAt(leg.strike, slices[leg.slice]!.fit) : 0;
      return { quantity: leg.quantity, bid, ask, theory, delta, gamma, theta, vega, deviations };
    }),
  );
}

/** What trading the contracts costs; the underlying is traded without. */
function feesOf({ legs, fee = 0 }: MarketStructure): number {
  return fee * legs.reduce((sum, leg) => sum + (isOption(leg) ? Math.abs(leg.contracts ?? leg.quantity) : 0), 0);
}

/** Profit of a structure at a moment of its scenario. @param forward of that moment */
function profitOf(
  { scenario, legs }: MarketStructure,
  moved: MovedStructure,
  entry: number,
  { elapsed, forward }: { elapsed: number; forward: number },
): HorizonProfit {
  const then = { ...scenario, elapsed };
  const profitAt = (price: number) => moved.value({ ...then, price }) - entry;
  const reach = { spot: scenario.price, forward, deviation: moved.deviation(scenario) };
  const isOver = moved.isOver(then);
  return { profile: profileOfLegs(legs.map(payoffLegOf), entry, { profitAt, reach, isOver }), profitAt };
}

/** The horizon of a structure: the first of its expiries that is still to come; the moment of the scenario without one. */
function momentOf({ scenario }: MarketStructure, horizon: MovedExpiry | null): { elapsed: number; forward: number } {
  return horizon
    ? { elapsed: horizon.fit.years, forward: horizon.forward(scenario) }
    : { elapsed: scenario.elapsed, forward: scenario.price };
}

/**
 * Break-evens and limits of a structure at the moment of its scenario, against what was paid: found by search, exact where all of
 * it has ended by then.
 */
export function profileOnMarket(structure: MarketStructure, entry: number): Profile {
  const { elapsed, price } = structure.scenario;
  return profitOf(structure, new MovedStructure(structure), entry, { elapsed, forward: price }).profile;
}

/** Moves of the price in deviations of the horizon, and factors of vol, that a stress is told at. */
export const STRESS_MOVES = [-3, -2, -1, 0, 1, 2, 3];
export const STRESS_FACTORS = [0.5, 0.8, 1, 1.2, 1.5];

function stressOf({ scenario }: MarketStructure, moved: MovedStructure, entry: number, deviation: number): Stress {
  const profitAt = (move: number, factor: number) => {
    const price = scenario.price * Math.exp(move * deviation);
    return moved.value({ ...scenario, price, volFactor: factor * scenario.volFactor }) - entry;
  };
  return {
    moves: STRESS_MOVES,
    volFactors: STRESS_FACTORS,
    pnl: STRESS_FACTORS.map((factor) => STRESS_MOVES.map((move) => profitAt(move, factor))),
  };
}

/**
 * What a structure costs, is worth and may come to on its market, in a scenario: per unit of the underlying, for the quantities
 * given. The horizon of its limits, break-evens and odds is the first of its expiries that is still to come; what expires later is
 * revalued there. The scenario moves everything but what the market asks.
 */
export function evaluateOnMarket(structure: MarketStructure): MarketEvaluation {
  const { legs, scenario } = structure;
  const moved = new MovedStructure(structure);
  const ofLegs = moved.ofLegs(scenario);
  const known = legs.map((leg, i) => legValues(structure, leg, ofLegs[i]!, moved.vol(i, scenario)));
  const { worst, mid, best, skew, curvature } = pricedOf(structure, known);
  const fees = feesOf(structure);
  const entry = known.reduce((sum, leg, i) => sum + legs[i]!.quantity * leg.entry, fees);
  const horizon = moved.horizon(scenario);
  const deviation = horizon ? horizon.fit.atmVol * Math.sqrt(horizon.fit.years) : USUAL_DEVIATION;
  const profit = profitOf(structure, moved, entry, momentOf(structure, horizon));
  const stress = stressOf(structure, moved, entry, deviation);
  const options = legs.flatMap((leg, i) => {
    const { vol, vega } = known[i]!;
    return isOption(leg) ? [{ quantity: leg.quantity, vol, vega }] : [];
  });
  const own = ownVolAt(structure, ofLegs, horizon);
  const none = { odds: [], dots: [] };
  const { odds, dots } = horizon ? oddsAtHorizon([...BASES, 'past'], structure, horizon, own, profit) : none;
  const { profile } = profit;
  const worstCell = Math.max(0, -Math.min(...stress.pnl.flat().filter(Number.isFinite)));
  return {
    cost: { worst: worst + fees, mid: mid + fees, best: best + fees },
    fees,
    ...{ entry, values: summed(legs, ofLegs), skew, curvature },
    horizon: horizon?.fit.years ?? null,
    ...{ deviation, profile },
    capitalAtRisk: Number.isFinite(profile.maxLoss) ? profile.maxLoss : worstCell,
    volBought: meanVol(options.filter(({ quantity }) => quantity > 0)),
    volSold: meanVol(options.filter(({ quantity }) => quantity < 0)),
    legs: known,
    assignments: earlyAssignments(
      structure,
      known.map(({ bid, ask }) => 0.5 * (bid + ask)),
    ),
    ...{ odds, dots, stress },
  };
}

/** What a structure gains, and how it reacts, at one place of a scenario. */
export type GridCell = Record<MovedGreek, number> & { pnl: number };

/**
 * Profit and Greeks by moves of the price and by factors of vol, at the moment of the scenario.
 *
 * @param deviation that moves are counted in: of the logarithm of the price
 * @returns a row for each factor, a column for each move, as {@link Stress} has them
 */
export function gridOnMarket(structure: MarketStructure, entry: number, deviation: number): GridCell[][] {
  const moved = new MovedStructure(structure);
  const { scenario, legs } = structure;
  return STRESS_FACTORS.map((factor) =>
    STRESS_MOVES.map((move) => {
      const there = {
        ...scenario,
        price: scenario.price * Math.exp(move * deviation),
        volFactor: factor * scenario.volFactor,
      };
      const { value, ...greeks } = summed(legs, moved.ofLegs(there));
      return { pnl: value - entry, ...greeks };
    }),
  );
}

/** A move of the price in deviations, and points of vol that are added to all vols. */
const CHANGES = [-2, -1, 0, 1, 2].flatMap((move) => [-0.05, 0, 0.05].map((shift) => ({ move, shift })));
/** Of the 25-delta risk reversal, on either side. */
const SKEW_STEP = 1e-3;

/** What each leg does that no Greek of it says. */
export interface LegReactions {
  /** What a unit of it changes by in a point of the 25-delta risk reversal. */
  skew: number;
  /** And by moves of up to two deviations with vols of up to five points up or down, one after the other. */
  changes: Float64Array;
}

/**
 * How legs react beside their Greeks, for one unit of each.
 *
 * @param deviation of the logarithm of the price, that moves are counted in
 */
export function reactionsOnMarket(structure: MarketStructure, deviation: number): LegReactions[] {
  const moved = new MovedStructure(structure);
  const { scenario, legs } = structure;
  const valuesAt = (change: Partial<Scenario>) => moved.valuesOfLegs({ ...scenario, ...change });
  const now = valuesAt({});
  const tilted = [SKEW_STEP, -SKEW_STEP].map((step) => valuesAt({ skewShift: scenario.skewShift + step }));
  const there = CHANGES.map(({ move, shift }) =>
    valuesAt({ price: scenario.price * Math.exp(move * deviation), volShift: scenario.volShift + shift }),
  );
  return legs.map((_, i) => ({
    skew: (tilted[0]![i]! - tilted[1]![i]!) / (200 * SKEW_STEP),
    changes: Float64Array.from(there, (values) => values[i]! - now[i]!),
  }));
}

/** Profit and Greeks along the price at a moment, an array each; those that were not asked for are 0 throughout. */
export interface ProfitCurveColumns extends Record<MovedGreek, Float64Array> {
  pnl: Float64Array;
}

/**
 * Profit and Greeks along the price at some moments of a scenario, against what was paid.
 *
 * @param prices of the underlying, 0 or more
 * @param moments years from the as-of
 */
export function curvesOnMarket(
  structure: MarketStructure,
  entry: number,
  prices: Float64Array,
  moments: readonly number[],
  depth: Depth = 'first',
): ProfitCurveColumns[] {
  const moved = new MovedStructure(structure);
  return moments.map((elapsed) => {
    const { value, ...greeks } = moved.along({ ...structure.scenario, elapsed }, prices, depth);
    return { pnl: value.map((one) => one - entry), ...greeks };
  });
}

/**
 * Profit and Greeks along the vol at some moments of a scenario, against what was paid.
 *
 * @param shifts decimals that are added to the scenario's shift, as that is scaled
 * @param moments years from the as-of
 */
export function curvesByVol(
  structure: MarketStructure,
  entry: number,
  shifts: Float64Array,
  moments: readonly number[],
  depth: Depth = 'first',
): ProfitCurveColumns[] {
  const moved = new MovedStructure(structure);
  const { scenario } = structure;
  const price = Float64Array.of(scenario.price);
  return moments.map((elapsed) => {
    const told = Array.from(shifts, (shift) =>
      moved.along({ ...scenario, elapsed, volShift: scenario.volShift + shift }, price, depth),
    );
    const columnOf = (name: 'value' | MovedGreek) => Float64Array.from(told, (one) => one[name][0]!);
    const greeks = Object.fromEntries(MOVED_GREEKS.map((name) => [name, columnOf(name)])) as Record<
      MovedGreek,
      Float64Array
    >;
    return { pnl: columnOf('value').map((value) => value - entry), ...greeks };
  });
}
