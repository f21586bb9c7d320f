import {
  curvesByVol,
  curvesOnMarket,
  Deliveries,
  halfOnTheWay,
  evaluateOnMarket,
  expiryTerms,
  eventVariances,
  impliedColumns,
  inOwnTerms,
  pricesAround,
  profileOnMarket,
  tiedTo,
  unmoved,
  walkPaths,
  writtenOn,
  type Basis,
  type CashDividend,
  type Delivery,
  type Depth,
  type ExpiryFit,
  type Fill,
  type MarketEvaluation,
  type MarketLeg,
  type MarketStructure,
  type OnTheWay,
  type PlacedLeg,
  type ProfitCurveColumns,
  type Scenario,
  gridOnMarket,
  reactionsOnMarket,
  type LegReactions,
  type GridCell,
  type SideVols,
  type TiedPackage,
} from '@umwelt/core';
import type { QuoteSide } from '$lib/address';
import type { Sides } from './block';
import { choiceOf, pastPaths, type PricingTerms } from './pricing';
import type { LoadedSnapshot } from './snapshot';

/** What is asked of legs in hand. */
export interface StructureRequest {
  /** Where they are listed, those of another delivery among its own expiries; what each was entered at where it is not the fill. */
  legs: readonly (PlacedLeg & { entry?: number })[];
  /** Other deliveries that legs stand in. */
  others: readonly Delivery[];
  /** Of the underlying, in contracts' worth of it. */
  held: number;
  fill: Fill;
  /** Of a contract, for one unit of the underlying. */
  fee: number;
  basis: Basis;
  /** What is thought to happen, where it is not that nothing does. */
  scenario: Partial<Omit<Scenario, 'price'>>;
  /** By how much of itself the price moves in it. */
  move: number;
  /** Announcements and cash dividends to come, in years from the moment. */
  events: readonly number[];
  dividends: readonly CashDividend[];
  /** Moments of curves, in years from the moment; none where none are drawn. */
  moments: readonly number[];
  /** Along what they are told: the price, or points of vol that are added. */
  along: 'price' | 'vol';
  /** The price that it is tied to; 0 where it is not. */
  tied: number;
  /** Whether each leg is told alone. */
  hasLegs: boolean;
  /** Whether the odds of half the most profit on the way are told, which takes as long as all else. */
  hasHalf: boolean;
  /** Whether break-evens on the date of the scenario are told. */
  hasEvens: boolean;
  /** How much curves tell beside the profit. */
  depth: Depth;
  /** Ends of the prices that curves are told along; 0 where they are left to the structure. */
  ends: readonly [from: number, to: number];
  /** Deviation of the price in which a grid by price and vol is told; none where it is not wanted. */
  gridDeviation?: number;
  /** The same for how single legs react beside their Greeks. */
  reactionDeviation?: number;
}

/** What is known of legs, with how likely half of the most profit is met on the way; null where that was not asked. */
export type ToldEvaluation = MarketEvaluation & { half: readonly OnTheWay[] | null };

/** What legs in hand come to. */
export interface StructureAnswer {
  evaluation: ToldEvaluation;
  /** Of the underlying: as it is, and in the scenario. */
  spot: number;
  price: number;
  /** Strikes of the legs by the price in view, and the prices that they are of over that. */
  strikes: readonly number[];
  ratios: readonly number[];
  /** Break-evens on the date of the scenario, where that was asked. */
  evens: readonly number[];
  /** What it is worth with the underlying that goes with it; null where it is not tied to a price. */
  tied: TiedPackage | null;
  /** Prices or shifts of vol (decimals) at which the curves are told, ascending. */
  x: Float64Array;
  curves: ProfitCurveColumns[];
  /** What each leg alone gains at the first expiry, along the price, where that was asked; the underlying comes last. */
  legCurves: Float64Array[];
  /** By factors of vol and moves of the price, where that was asked. */
  grid: GridCell[][] | null;
  /** By leg, in the terms of the price in view, where that was asked; the underlying comes last. */
  reactions: LegReactions[];
}

const fitOf = ({ fit }: { fit: ExpiryFit }) => fit;

const POINTS = 121;

/** Even steps between the ends that are wanted; an end that is not, or that makes no sense, is the usual one. */
function evenPrices(usual: Float64Array, [from, to]: StructureRequest['ends']): Float64Array {
  const [first, last] = [from > 0 ? from : usual[0]!, to > 0 ? to : usual.at(-1)!];
  if ((from === 0 && to === 0) || !(first < last)) return usual;
  return Float64Array.from(usual, (_, i) => first + ((last - first) * i) / (usual.length - 1));
}

/** Prices of curves: even steps around another, and the strikes, at which they bend. */
function curvePrices(
  price: number,
  deviation: number,
  strikes: readonly number[],
  ends: StructureRequest['ends'],
): Float64Array {
  const even = evenPrices(pricesAround(price, deviation, POINTS), ends);
  const inside = strikes.filter((strike) => strike > even[0]! && strike < even.at(-1)!);
  return Float64Array.from(new Set([...even, ...inside])).sort();
}

/** The expiry of a snapshot that is nearest in time. */
function ownPlace({ slices }: LoadedSnapshot, years: number): number {
  const away = (at: number) => Math.abs(slices[at]!.fit.years - years);
  return slices.reduce((best, _, at) => (away(at) < away(best) ? at : best), 0);
}

/** Evaluates legs on a snapshot whose vols are solved. */
export function evaluateLegs(
  snapshot: LoadedSnapshot,
  vols: readonly Sides<SideVols>[],
  request: StructureRequest,
  terms: PricingTerms,
  quotes: QuoteSide,
): StructureAnswer {
  const { fill, dividends } = request;
  const market = new Deliveries(snapshot.slices, request.others);
  const { slices } = market;
  const legs = request.legs.map((leg) => market.leg(leg, leg.entry));
  const ratios = request.legs.map(({ symbol }) => market.ratioOf(symbol));
  const on = writtenOn(snapshot, snapshot);
  const fits = slices.map(({ fit }) => fit);
  const nearest = legs.reduce((first, leg) => (fits[leg.slice]!.years < fits[first.slice]!.years ? leg : first));
  const spot = snapshot.price > 0 ? snapshot.price : expiryTerms(on, fits[nearest.slice]!).spot;
  const past = terms.past ?? terms.usualPast;
  const own = ({ slice, side, index }: PlacedLeg) => {
    const known = vols[slice]?.[side][quotes];
    if (known) return known[index]!;
    const { strike, fit, ...sides } = slices[slice]!;
    return impliedColumns(strike, sides[side], fit, side === 'call' ? 1 : -1, on)[quotes][index]!;
  };
  const structure: MarketStructure = {
    ...{ slices, legs: withHeld(legs, request.held), fill, fee: request.fee },
    around: { on, spot, dividends, events: eventVariances(snapshot.slices.map(fitOf), request.events) },
    ownVols: [...legs.map(own), NaN],
    choice: choiceOf(request.basis, terms, ownPlace(snapshot, fits[nearest.slice]!.years), undefined),
    scenario: { ...unmoved(spot * (1 + request.move)), ...request.scenario },
    past: ({ sessions }, share, start) => pastPaths(past, Math.round(sessions * share), start),
    walk: walkPaths(past.bars, past),
  };
  const found = evaluateOnMarket(structure);
  const evaluation = {
    ...found,
    legs: found.legs.map((values, i) => inOwnTerms(values, ratios[i] ?? 1)),
  };
  const half = request.hasHalf ? halfOnTheWay(structure, evaluation.entry, evaluation.profile.maxProfit) : null;
  const tied = request.tied > 0 ? tiedTo(structure, request.tied) : null;
  const evens = request.hasEvens ? profileOnMarket(structure, evaluation.entry).breakEvens : [];
  const strikes = legs.map(({ strike }) => strike);
  const grid = request.gridDeviation ? gridOnMarket(structure, evaluation.entry, request.gridDeviation) : null;
  const { reactionDeviation = 0 } = request;
  const reactions = reactionDeviation > 0 ? reactionsOnMarket(structure, reactionDeviation) : [];
  const told = {
    ...{ grid, reactions },
    evaluation: { ...evaluation, half },
    spot,
    price: structure.scenario.price,
    strikes,
    ratios,
    evens,
    tied,
  };
  const { moments, depth, along } = request;
  if (along === 'vol') {
    const curves = curvesByVol(structure, evaluation.entry, VOL_SHIFTS, moments, depth);
    return { ...told, x: VOL_SHIFTS, curves, legCurves: [] };
  }
  const x = curvePrices(spot, evaluation.deviation, strikes, request.ends);
  const curves = curvesOnMarket(structure, evaluation.entry, x, moments, depth);
  return { ...told, x, curves, legCurves: request.hasLegs ? legCurvesOf(structure, found, x) : [] };
}

/** Legs with what is held of the underlying behind them. */
function withHeld(legs: readonly MarketLeg[], held: number): MarketLeg[] {
  return held === 0 ? [...legs] : [...legs, { underlying: true, quantity: held }];
}

/** Points of vol around what it is. */
const VOL_SHIFTS = Float64Array.from({ length: 61 }, (_, i) => (i - 30) / 200);

/** What each leg gains at the first expiry. */
function legCurvesOf(
  structure: MarketStructure,
  { legs, horizon }: MarketEvaluation,
  prices: Float64Array,
): Float64Array[] {
  return structure.legs.map((leg, i) => {
    const alone = { ...structure, fee: 0, legs: [leg], ownVols: [structure.ownVols[i]!] };
    return curvesOnMarket(alone, leg.quantity * legs[i]!.entry, prices, [horizon ?? 0], 'values')[0]!.pnl;
  });
}
