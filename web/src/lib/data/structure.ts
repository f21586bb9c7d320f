import {
  curvesOnMarket,
  evaluateOnMarket,
  expiryTerms,
  eventVariances,
  pricesAround,
  unmoved,
  writtenOn,
  type Basis,
  type CashDividend,
  type Depth,
  type Fill,
  type MarketEvaluation,
  type MarketStructure,
  type PlacedLeg,
  type ProfitCurveColumns,
  type Scenario,
  type SideVols,
} from '@umwelt/core';
import type { QuoteSide } from '$lib/address';
import type { Sides } from './block';
import { choiceOf, pastPaths, type PricingTerms } from './pricing';
import type { LoadedSnapshot } from './snapshot';

/** What is asked of legs in hand. */
export interface StructureRequest {
  legs: readonly PlacedLeg[];
  fill: Fill;
  basis: Basis;
  /** What is thought to happen, where it is not that nothing does. */
  scenario: Partial<Omit<Scenario, 'price'>>;
  /** Announcements and cash dividends to come, in years from the moment. */
  events: readonly number[];
  dividends: readonly CashDividend[];
  /** Moments of curves, in years from the moment; none where none are drawn. */
  moments: readonly number[];
  /** How much curves tell beside the profit. */
  depth: Depth;
}

/** What legs in hand come to. */
export interface StructureAnswer {
  evaluation: MarketEvaluation;
  /** Of the underlying, in the scenario. */
  price: number;
  /** At which the curves are told, ascending. */
  prices: Float64Array;
  curves: ProfitCurveColumns[];
}

const POINTS = 121;

/** Prices of curves: even steps around another, and the strikes, at which they bend. */
function curvePrices(price: number, deviation: number, strikes: readonly number[]): Float64Array {
  const even = pricesAround(price, deviation, POINTS);
  const inside = strikes.filter((strike) => strike > even[0]! && strike < even.at(-1)!);
  return Float64Array.from(new Set([...even, ...inside])).sort();
}

/** Evaluates legs on a snapshot whose vols are solved. */
export function evaluateLegs(
  snapshot: LoadedSnapshot,
  vols: readonly Sides<SideVols>[],
  request: StructureRequest,
  terms: PricingTerms,
  quotes: QuoteSide,
): StructureAnswer {
  const { slices } = snapshot;
  const { legs, fill, dividends } = request;
  const on = writtenOn(snapshot, snapshot);
  const fits = slices.map(({ fit }) => fit);
  const nearest = legs.reduce((first, leg) => (fits[leg.slice]!.years < fits[first.slice]!.years ? leg : first));
  const spot = snapshot.price > 0 ? snapshot.price : expiryTerms(on, fits[nearest.slice]!).spot;
  const past = terms.past ?? terms.usualPast;
  const structure: MarketStructure = {
    ...{ slices, legs, fill },
    around: { on, spot, dividends, events: eventVariances(fits, request.events) },
    ownVols: legs.map(({ slice, side, index }) => vols[slice]![side][quotes][index]!),
    choice: choiceOf(request.basis, terms, nearest.slice, undefined),
    scenario: { ...unmoved(spot), ...request.scenario },
    past: ({ sessions }, share, start) => pastPaths(past, Math.round(sessions * share), start),
  };
  const evaluation = evaluateOnMarket(structure);
  const strikes = legs.map(({ strike }) => strike);
  const prices = curvePrices(spot, evaluation.deviation, strikes);
  const curves = curvesOnMarket(structure, evaluation.entry, prices, request.moments, request.depth);
  return { evaluation, price: spot, prices, curves };
}
