import {
  DAYS_PER_YEAR,
  lognormalUndiscounted,
  makeEuropean,
  makeFirstOrder,
  priceContract,
  priceEuropean,
  type ContractValues,
} from '../models';
import { lognormalLaw } from '../odds';
import { outcomeUnder, NO_OUTCOME, type Outcome } from './outcome';
import { expiredDelta, heldLeg } from './payoff';
import { profileOfLegs, type Profile, type ProfitReach } from './profile';
import { LEAST_YEARS } from './scenario';
import { pricesAround, thirds, USUAL_DEVIATION } from './usual';

/** An option of a structure that needs no chain: its time and its vol are given. */
export interface GivenOption {
  readonly kind: 'option';
  /** +1 call, −1 put. */
  readonly sign: number;
  readonly strike: number;
  /** To its expiry. */
  readonly years: number;
  readonly vol: number;
  /** Signed: bought is plus. */
  readonly quantity: number;
  /** What one unit of the underlying was paid for. */
  readonly entry: number;
}

/** The underlying itself, in its own units. */
export interface GivenUnderlying {
  readonly kind: 'underlying';
  readonly quantity: number;
  readonly entry: number;
}

export type GivenLeg = GivenOption | GivenUnderlying;

/** Legs on one underlying, whose carry is a rate and a yield. */
export interface GivenStructure {
  readonly spot: number;
  readonly rate: number;
  readonly yield: number;
  /** Of the options; the underlying counts in its own units. */
  readonly multiplier: number;
  readonly legs: readonly GivenLeg[];
  /** Of the law that odds are told by; without it the mean vol of the options that expire first. */
  readonly vol?: number | undefined;
}

/** Greeks in money for the whole: theta a calendar day, vega and volga a vol point, rho a percentage point. */
export type StructureGreeks = Pick<
  ContractValues,
  'delta' | 'gamma' | 'theta' | 'vega' | 'rho' | 'vanna' | 'volga' | 'charm'
>;

export interface ProfitPoint {
  price: number;
  pnl: number;
  delta: number;
  gamma: number;
  theta: number;
  vega: number;
}

/** Profit and Greeks along the price on a date. */
export interface DatedCurve {
  afterDays: number;
  points: ProfitPoint[];
}

/** What is known of a structure, in money for the whole of it. */
export interface Evaluation {
  /** Paid to enter; negative where money was taken in. */
  entry: number;
  /** What it is worth now. */
  value: number;
  /** Until the first option expires; null without options. */
  horizonDays: number | null;
  profile: Profile;
  outcome: Outcome;
  greeks: StructureGreeks;
  curves: DatedCurve[];
}

const isOption = (leg: GivenLeg): leg is GivenOption => leg.kind === 'option';

/** Legs with what one unit of the price moves them by: the multiplier of options, 1 of the underlying. */
function weighted({ legs, multiplier }: GivenStructure) {
  return legs.map((leg) => ({ leg, units: leg.quantity * (isOption(leg) ? multiplier : 1) }));
}

/** When the first option expires, in years; null without options. */
function horizonOf({ legs }: GivenStructure): number | null {
  const years = legs.filter(isOption).map((leg) => leg.years);
  return years.length > 0 ? Math.min(...years) : null;
}

/** What a European option is worth; at a price of 0 as well. */
function optionValue(
  { sign, strike, vol }: GivenOption,
  { rate, yield: carryYield }: GivenStructure,
  price: number,
  years: number,
): number {
  if (!(years > LEAST_YEARS)) return Math.max(0, sign * (price - strike));
  const discount = Math.exp(-rate * years);
  const deviation = vol * Math.sqrt(years);
  const forward = price * Math.exp((rate - carryYield) * years);
  return price > 0 && deviation > 0
    ? discount * lognormalUndiscounted(sign, forward, strike, deviation)
    : discount * Math.max(0, sign * (forward - strike));
}

/** What it gains at its horizon, by the price there. */
function profitAtHorizon(structure: GivenStructure, entry: number, horizon: number): (price: number) => number {
  const legs = weighted(structure);
  return (price) =>
    legs.reduce(
      (sum, { leg, units }) =>
        sum + units * (isOption(leg) ? optionValue(leg, structure, price, leg.years - horizon) : price),
      -entry,
    );
}

/** What a structure comes to at its horizon. */
function profileAtHorizon(structure: GivenStructure, entry: number, horizon: number): Profile {
  const { spot, rate, yield: carryYield } = structure;
  const options = structure.legs.filter(isOption);
  const reach: ProfitReach = {
    spot,
    forward: spot * Math.exp((rate - carryYield) * horizon),
    deviation: Math.max(0, ...options.map(({ vol, years }) => vol * Math.sqrt(years))),
  };
  const legs = weighted(structure).map(({ leg, units }) =>
    isOption(leg) ? { quantity: units, sign: leg.sign, strike: leg.strike } : heldLeg(units),
  );
  const profitAt = profitAtHorizon(structure, entry, horizon);
  const isOver = options.every(({ years }) => years <= horizon + LEAST_YEARS);
  return profileOfLegs(legs, entry, { profitAt, reach, isOver });
}

function outcomeAtHorizon(structure: GivenStructure, entry: number, horizon: number, profile: Profile): Outcome {
  const { spot, rate, yield: carryYield, vol } = structure;
  const first = structure.legs.filter(isOption).filter(({ years }) => years <= horizon + LEAST_YEARS);
  const mean = first.reduce((sum, leg) => sum + leg.vol, 0) / first.length;
  const spread = (vol ?? mean) * Math.sqrt(horizon);
  const forward = spot * Math.exp((rate - carryYield) * horizon);
  const knots = first.map(({ strike }) => strike);
  return outcomeUnder(
    lognormalLaw(spread),
    { forward, spread },
    profitAtHorizon(structure, entry, horizon),
    profile,
    knots,
  );
}

function greeksOf(structure: GivenStructure): { value: number; greeks: StructureGreeks } {
  const { spot, rate, yield: carryYield } = structure;
  const greeks: StructureGreeks = { delta: 0, gamma: 0, theta: 0, vega: 0, rho: 0, vanna: 0, volga: 0, charm: 0 };
  let value = 0;
  for (const { leg, units } of weighted(structure)) {
    if (!isOption(leg)) {
      value += units * spot;
      greeks.delta += units;
      continue;
    }
    const { sign, strike, years, vol } = leg;
    const found = priceContract({
      ...{ model: 'black-scholes-merton', side: sign > 0 ? 'call' : 'put', spot, strike, years },
      ...{ rate, yield: carryYield, vol },
    });
    value += units * found.price;
    for (const name of Object.keys(greeks) as (keyof StructureGreeks)[]) greeks[name] += units * found[name];
  }
  return { value, greeks };
}

/**
 * Profit and Greeks along the price on some dates. An option that has expired by then pays what it would at that price: what
 * the price was on its day is not known.
 */
function curvesOf(
  structure: GivenStructure,
  entry: number,
  prices: Float64Array,
  afterDays: readonly number[],
): DatedCurve[] {
  const count = prices.length;
  const input = { ...makeEuropean(count), spot: prices };
  const out = makeFirstOrder(count);
  input.rate.fill(structure.rate);
  input.yield.fill(structure.yield);
  return afterDays.map((days) => {
    const points = Array.from(prices, (price) => ({ price, pnl: -entry, delta: 0, gamma: 0, theta: 0, vega: 0 }));
    for (const { leg, units } of weighted(structure)) {
      const left = isOption(leg) ? leg.years - days / DAYS_PER_YEAR : 0;
      if (isOption(leg) && left > LEAST_YEARS) {
        input.strike.fill(leg.strike);
        input.years.fill(left);
        input.vol.fill(leg.vol);
        input.sign.fill(leg.sign);
        priceEuropean(input, out, count);
        points.forEach((point, i) => {
          point.pnl += units * out.price[i]!;
          point.delta += units * out.delta[i]!;
          point.gamma += units * out.gamma[i]!;
          point.theta += units * out.theta[i]!;
          point.vega += units * out.vega[i]!;
        });
        continue;
      }
      const [sign, strike] = isOption(leg) ? [leg.sign, leg.strike] : [1, 0];
      for (const point of points) {
        point.pnl += units * Math.max(0, sign * (point.price - strike));
        point.delta += units * expiredDelta(sign, strike, point.price);
      }
    }
    return { afterDays: days, points };
  });
}

/**
 * What legs can gain and lose at the first of their expiries, how likely that is, what they are worth and how they react now,
 * and what they gain along the price on other dates. European throughout; each option keeps its vol.
 *
 * @param prices at which curves are told, all over 0
 * @param afterDays dates of the curves, calendar days from now
 * @example the call of example 15.6 in J. Hull, "Options, Futures, and Other Derivatives": { spot: 42, rate: 0.1, yield: 0, multiplier: 1, legs: [{ kind: 'option', sign: 1, strike: 40, years: 0.5, vol: 0.2, quantity: 1, entry: 4.76 }] }
 */
export function evaluateGiven(
  structure: GivenStructure,
  prices: Float64Array,
  afterDays: readonly number[],
): Evaluation {
  const entry = weighted(structure).reduce((sum, { leg, units }) => sum + units * leg.entry, 0);
  const horizon = horizonOf(structure);
  const profile = profileAtHorizon(structure, entry, horizon ?? 0);
  return {
    entry,
    ...greeksOf(structure),
    horizonDays: horizon === null ? null : horizon * DAYS_PER_YEAR,
    profile,
    outcome: horizon === null ? NO_OUTCOME : outcomeAtHorizon(structure, entry, horizon, profile),
    curves: curvesOf(structure, entry, prices, afterDays),
  };
}

/** Prices that curves are drawn at unless others are asked for: within three deviations of the horizon. */
export function usualPrices(structure: GivenStructure): Float64Array {
  const { spot, legs, vol } = structure;
  const widest = vol ?? Math.max(0, ...legs.filter(isOption).map((leg) => leg.vol));
  return pricesAround(spot, widest * Math.sqrt(horizonOf(structure) ?? 0) || USUAL_DEVIATION);
}

/** Dates of curves unless others are asked for: now, the thirds, and the horizon. */
export function usualDays(structure: GivenStructure): number[] {
  return thirds(0, (horizonOf(structure) ?? 0) * DAYS_PER_YEAR);
}
