import { chebyshevAt, chebyshevPoints, chebyshevSeries, chebyshevSlope } from '../distributions';
import { DAYS_PER_YEAR } from '../models';
import { makeColumns, type Depth, type MovedColumns } from './columns';
import { fillHeld } from './held-greeks';
import type { MovedExpiry } from './moved-expiry';
import { LEAST_YEARS, type Scenario } from './scenario';

const POINT = 0.01;
/** Steps: of the vol and of the time that is left, as shares, and of the rate. */
const VOL_SHARE = 2e-3;
const TIME_SHARE = 3e-3;
const RATE_STEP = 1e-4;
/** So many deviations beyond the strike early exercise is worth nothing. */
const REACH = 8;
/** One price is told from what lies within a third of a deviation. */
const LEAST_REACH = 1 / 3;
/** Points that early exercise is told at: so many, and more for each deviation; what is derived twice wants more of them. */
const POINTS: Record<Depth, { fewest: number; perDeviation: number }> = {
  values: { fewest: 8, perDeviation: 5 },
  first: { fewest: 8, perDeviation: 5 },
  second: { fewest: 12, perDeviation: 9 },
};
const MOST = 96;
/** What waiting is worth, as a share of the price, where one exercises. */
const NOTHING = 1e-12;
const HALVINGS = 32;
/** What the logarithm of an end may be off by rounding. */
const SLACK = 1e-12;

/** A contract in a scenario. */
interface Held {
  readonly expiry: MovedExpiry;
  readonly sign: number;
  readonly strike: number;
  readonly scenario: Scenario;
}

/** Between which logarithms of the price waiting is worth something more than to hold. */
interface Waiting {
  readonly from: number;
  readonly to: number;
  /** Where one starts to exercise; infinite where nobody does. */
  readonly boundary: number;
}

/**
 * Values and Greeks of a contract that may be exercised early, along the price: those of one that is held, in closed form, and
 * what early exercise is worth over it. That is told at Chebyshev points of the logarithm of the price, from the price at which
 * one exercises to where it is worth nothing, in the scenario and in some that are moved a little; the series through them are
 * derived. What is worth exercising moves with nothing but the price.
 *
 * @param prices of the underlying, 0 or more
 * @param out results, overwritten
 */
export function fillEarly(
  expiry: MovedExpiry,
  sign: number,
  strike: number,
  scenario: Scenario,
  prices: Float64Array,
  out: MovedColumns,
  depth: Depth,
): void {
  fillHeld(expiry, sign, strike, scenario, prices, out, depth);
  if (!(expiry.left(scenario) > LEAST_YEARS)) return;
  const [lowest, highest] = rangeOf(prices, strike);
  const held: Held = { expiry, sign, strike, scenario };
  const spread = expiry.vol(strike, scenario) * Math.sqrt(expiry.left(scenario));
  if (!(spread > 0)) return;
  const waiting = waitingAmong(held, lowest, highest, spread);
  const { from, to, boundary } = waiting;
  const paid = paidBy(held);
  const isExercised = (price: number) =>
    price > 0
      ? sign * (Math.log(price) - boundary) >= 0
      : paid(price) >= expiry.value(sign, strike, { ...scenario, price }, true);
  const premium = to > from ? premiumAlong(held, waiting, spread, prices, depth) : null;
  for (let i = 0; i < prices.length; i++) {
    const price = prices[i]!;
    if (isExercised(price)) {
      for (const column of Object.values(out)) column[i] = 0;
      out.value[i] = paid(price);
      out.delta[i] = paid(price + 1) - paid(price);
      continue;
    }
    const at = Math.log(price);
    if (premium && at >= from - SLACK && at <= to + SLACK) premium(price, out, i);
  }
}

/** What exercising pays at a price, a straight line; under nothing out of the money. */
function paidBy({ expiry, sign, strike, scenario }: Held): (price: number) => number {
  return (price) => sign * (expiry.exercised({ ...scenario, price }) - strike);
}

/** The least price over 0, and the highest; another one where there is none. */
function rangeOf(prices: Float64Array, other: number): readonly [number, number] {
  let [lowest, highest] = [Infinity, 0];
  for (const price of prices) {
    if (price > 0 && price < lowest) lowest = price;
    if (price > highest) highest = price;
  }
  return highest > 0 ? [lowest, highest] : [other, other];
}

/** Where one waits, among some prices: those are deep in the money at one end, and away from it at the other. */
function waitingAmong(held: Held, lowest: number, highest: number, spread: number): Waiting {
  const { expiry, sign, strike, scenario } = held;
  const paid = paidBy(held);
  const isWaited = (logPrice: number) => {
    const price = Math.exp(logPrice);
    const intrinsic = paid(price);
    return !(intrinsic > 0) || expiry.value(sign, strike, { ...scenario, price }, true) - intrinsic > NOTHING * price;
  };
  const middle = 0.5 * (Math.log(lowest) + Math.log(highest));
  const half = Math.max(0.5 * Math.log(highest / lowest), LEAST_REACH * spread);
  const [deep, away] = [middle + sign * half, middle - sign * half];
  if (!isWaited(away)) return { from: 0, to: 0, boundary: -sign * Infinity };
  let boundary = sign * Infinity;
  if (!isWaited(deep)) {
    let [inside, outside] = [deep, away];
    for (let i = 0; i < HALVINGS; i++) {
      const between = 0.5 * (inside + outside);
      if (isWaited(between)) outside = between;
      else inside = between;
    }
    boundary = outside;
  }
  const start = Number.isFinite(boundary) ? boundary : deep;
  const end = Math.log(strike) - sign * REACH * spread;
  return sign > 0
    ? { from: Math.max(away, Math.min(end, start)), to: start, boundary }
    : { from: start, to: Math.min(away, Math.max(end, start)), boundary };
}

/** What early exercise is worth at some prices in a scenario. */
function premiums({ expiry, sign, strike, scenario }: Held, prices: Float64Array, out: MovedColumns): Float64Array {
  fillHeld(expiry, sign, strike, scenario, prices, out, 'values');
  return prices.map((price, i) => expiry.value(sign, strike, { ...scenario, price }, true) - out.value[i]!);
}

/** Adds what early exercise is worth at a price, and how that moves, to columns. */
type AddPremium = (price: number, out: MovedColumns, at: number) => void;

function premiumAlong(
  held: Held,
  { from, to }: Waiting,
  spread: number,
  wanted: Float64Array,
  depth: Depth,
): AddPremium {
  const { expiry, scenario } = held;
  const { fewest, perDeviation } = POINTS[depth];
  const count = Math.min(MOST, Math.ceil(fewest + (perDeviation * (to - from)) / spread));
  const [middle, half] = [0.5 * (from + to), 0.5 * (to - from)];
  const prices = chebyshevPoints(count).map((x) => Math.exp(middle + half * x));
  const scratch = makeColumns(count);
  // What moves with anything but the price is derived along it for the second Greeks alone: of one price it is told there.
  const places = depth === 'first' && wanted.length === 1 ? wanted : prices;
  const moved = (change: Partial<Scenario>) =>
    premiums({ ...held, scenario: { ...scenario, ...change } }, places, scratch);
  const here = premiums(held, prices, scratch);
  const series = chebyshevSeries(here);
  const x = (price: number) => (Math.log(price) - middle) / half;
  if (depth === 'values') return (price, { value }, at) => void (value[at]! += chebyshevAt(series, x(price)));
  const { years } = expiry.fit;
  const volStep = VOL_SHARE * expiry.vol(held.strike, scenario);
  const shifted = (by: number) => ({
    volShifts: new Map(scenario.volShifts).set(years, (scenario.volShifts.get(years) ?? 0) + by),
  });
  const moment = TIME_SHARE * expiry.left(scenario);
  const later = (by: number) => ({ elapsed: scenario.elapsed + by });
  const rated = (by: number) => ({ rateShift: scenario.rateShift + by });
  const [less, more] = [moved(shifted(-volStep)), moved(shifted(volStep))];
  const between = (under: Float64Array, over: Float64Array, scale: number) =>
    over.map((value, i) => (value - under[i]!) * scale);
  const byVol = chebyshevSeries(between(less, more, POINT / (2 * volStep)));
  const byTime = chebyshevSeries(
    between(moved(later(-moment)), moved(later(moment)), 1 / (2 * moment * DAYS_PER_YEAR)),
  );
  const byRate = chebyshevSeries(between(moved(rated(-RATE_STEP)), moved(rated(RATE_STEP)), POINT / (2 * RATE_STEP)));
  const slope = chebyshevSlope(series);
  const bend = chebyshevSlope(slope);
  const addFirst: AddPremium = (price, out, at) => {
    const place = x(price);
    // Along the price from along its logarithm.
    const rise = chebyshevAt(slope, place) / half;
    out.value[at]! += chebyshevAt(series, place);
    out.delta[at]! += rise / price;
    out.gamma[at]! += (chebyshevAt(bend, place) / (half * half) - rise) / (price * price);
    out.vega[at]! += chebyshevAt(byVol, place);
    out.theta[at]! += chebyshevAt(byTime, place);
    out.rho[at]! += chebyshevAt(byRate, place);
  };
  if (depth === 'first') return addFirst;
  const byVolTwice = chebyshevSeries(
    here.map((value, i) => (less[i]! + more[i]! - 2 * value) * (POINT / volStep) ** 2),
  );
  const corner = (vol: number, time: number) => moved({ ...shifted(vol * volStep), ...later(time * moment) });
  const byVolAndTime = chebyshevSeries(
    between(
      between(corner(-1, -1), corner(1, -1), 1),
      between(corner(-1, 1), corner(1, 1), 1),
      POINT / (4 * volStep * moment * DAYS_PER_YEAR),
    ),
  );
  const byVolSlope = chebyshevSlope(byVol);
  const byTimeSlope = chebyshevSlope(byTime);
  return (price, out, at) => {
    addFirst(price, out, at);
    const place = x(price);
    out.vanna[at]! += chebyshevAt(byVolSlope, place) / (half * price);
    out.charm[at]! += chebyshevAt(byTimeSlope, place) / (half * price);
    out.volga[at]! += chebyshevAt(byVolTwice, place);
    out.veta[at]! += chebyshevAt(byVolAndTime, place);
  };
}
