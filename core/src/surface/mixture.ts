import { INV_SQRT_2PI, normalCdf } from '../distributions';
import { impliedDeviation } from '../implied';
import { leastSquares } from './least-squares';
import { lossOf, softened, type FitPoints } from './points';
import { comparisonGrid, isWorthSomething, type VarianceAt } from './svi';

/**
 * A mixture of lognormals (D. Brigo and F. Mercurio, "Lognormal-mixture dynamics and calibration to market volatility
 * smiles", 2002): the price ends in one of a few lognormal states. Prices are weighted sums of Black's, so the curve is free
 * of arbitrage in its strikes whatever its parameters, and it follows what no single curvature can: two outcomes of an
 * announcement, a bid that stands or falls.
 *
 * Parameters are weight, multiple of the forward and total deviation of each state, one after the other; weights sum to 1,
 * and so do weights times multiples.
 */
export type Mixture = readonly number[];

const PER_STATE = 3;
const [ONE_FORWARD, STRIKE, PRICE, SIGN, DEVIATION] = [1, 1, 0, 1, 0].map((value) => Float64Array.of(value)) as [
  Float64Array,
  Float64Array,
  Float64Array,
  Float64Array,
  Float64Array,
];

const density = (x: number) => INV_SQRT_2PI * Math.exp(-0.5 * x * x);

/** Total variance of a mixture at k and its derivatives, which its distribution and its density give. */
export function mixtureAt(mixture: Mixture, k: number, out: VarianceAt): VarianceAt {
  const strike = Math.exp(k);
  const sign = k < 0 ? -1 : 1;
  let price = 0;
  /** Of ending beyond the strike, and what it loses as the strike goes away by a little. */
  let beyond = 0;
  let thickness = 0;
  let widest = 0;
  for (let j = 0; j < mixture.length; j += PER_STATE) {
    const weight = mixture[j]!;
    const multiple = mixture[j + 1]!;
    const deviation = mixture[j + 2]!;
    const d1 = (Math.log(multiple) - k) / deviation + 0.5 * deviation;
    const d2 = d1 - deviation;
    const odds = normalCdf(sign * d2);
    price += weight * sign * (multiple * normalCdf(sign * d1) - strike * odds);
    beyond += weight * odds;
    thickness += (weight * density(d2)) / deviation;
    widest = Math.max(widest, deviation);
  }
  STRIKE[0] = strike;
  PRICE[0] = price;
  SIGN[0] = sign;
  impliedDeviation(ONE_FORWARD, STRIKE, PRICE, SIGN, DEVIATION, 1);
  const s = DEVIATION[0]!;
  // Where the price has no digits left: the widest state is what remains.
  if (!(price > LEAST_PRICE) || !(s > 0)) {
    out.w = widest * widest;
    out.slope = out.curvature = 0;
    return out;
  }
  const d2 = -k / s - 0.5 * s;
  const bell = density(d2);
  const slope = (sign * (normalCdf(sign * d2) - beyond)) / bell;
  const d2Slope = -1 / s + (k * slope) / (s * s) - 0.5 * slope;
  const curvature = d2Slope + thickness / bell + slope * d2 * d2Slope;
  out.w = s * s;
  out.slope = 2 * s * slope;
  out.curvature = 2 * (slope * slope + s * curvature);
  return out;
}

const LEAST_PRICE = 1e-280;

/** Weights and multiples from free numbers: logits of all states but the last, logarithms of multiples, of deviations. */
function mixtureOf(x: Float64Array, states: number): number[] {
  const weights = Array.from({ length: states }, (_, j) => (j < states - 1 ? Math.exp(x[j]!) : 1));
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  const multiples = Array.from({ length: states }, (_, j) => (j < states - 1 ? Math.exp(x[states - 1 + j]!) : 1));
  const mean = multiples.reduce((sum, multiple, j) => sum + (multiple * weights[j]!) / total, 0);
  return weights.flatMap((weight, j) => [weight / total, multiples[j]! / mean, Math.exp(x[2 * states - 2 + j]!)]);
}

/** Distances of the states in deviations, weights of the first and widths from which the search starts. */
const STARTS = [
  { apart: 1.2, share: 0.5, width: 0.5 },
  { apart: 2, share: 0.5, width: 0.3 },
  { apart: 1.2, share: 0.25, width: 0.6 },
  { apart: 1.2, share: 0.75, width: 0.6 },
  { apart: 0.2, share: 0.8, width: 0.5 },
] as const;
const FIRST_STEPS = 8;
const STEPS = 40;
const MOST_LOGIT = 5;
/** A state is no narrower than this share of the distance of strikes, or it would stand between two of them. */
const LEAST_GAPS = 0.5;

/**
 * Fits mixtures of two and of three states to vols; the third has to earn its parameters (G. Schwarz, "Estimating the
 * dimension of a model", 1978).
 *
 * @param deviation of the whole, σ√T
 */
export function fitMixture(points: FitPoints, deviation: number): { mixture: Mixture; loss: number } | null {
  const two = bestMixture(points, deviation, 2, []);
  if (!two) return null;
  const three = bestMixture(points, deviation, 3, two.mixture);
  const price = 0.5 * PER_STATE * Math.log(points.count);
  return three && three.loss + price < two.loss ? three : two;
}

/** A search for mixtures: what is to be small, how much of it there is, and where parameters make sense. */
interface Search {
  residuals: (x: Float64Array, out: Float64Array) => void;
  count: number;
  project: (x: Float64Array) => void;
}

/** Undiscounted prices, by the forward, of the out-of-the-money options at log-moneynesses. */
interface Priced {
  sign: Float64Array;
  k: Float64Array;
  strike: Float64Array;
  price: Float64Array;
  /** By what a vol moves the price. */
  perVol: Float64Array;
}

function pricedAt(k: Float64Array, deviation: (i: number) => number, years: number): Priced {
  const sign = k.map((x) => (x < 0 ? -1 : 1));
  const strike = k.map(Math.exp);
  const perVol = new Float64Array(k.length);
  const price = k.map((x, i) => {
    const s = deviation(i);
    const d1 = -x / s + 0.5 * s;
    perVol[i] = density(d1) * Math.sqrt(years);
    return sign[i]! * (normalCdf(sign[i]! * d1) - strike[i]! * normalCdf(sign[i]! * (d1 - s)));
  });
  return { sign, k, strike, price, perVol };
}

function priceOf(mixture: Mixture, { sign, k, strike }: Priced, i: number): number {
  let value = 0;
  for (let j = 0; j < mixture.length; j += PER_STATE) {
    const s = mixture[j + 2]!;
    const d1 = (Math.log(mixture[j + 1]!) - k[i]!) / s + 0.5 * s;
    value += mixture[j]! * (mixture[j + 1]! * normalCdf(sign[i]! * d1) - strike[i]! * normalCdf(sign[i]! * (d1 - s)));
  }
  return sign[i]! * value;
}

/** A floor weighs like a miss of so much vol. */
const FLOOR_UNIT = 1e-4;
const FLOOR_SAMPLES = 61;

function searchOf(points: FitPoints, deviation: number, states: number, floor?: (k: number) => number): Search {
  const { k, vol, unit, years, count, huber } = points;
  const gaps = Array.from(k.subarray(1), (value, i) => value - k[i]!).sort((a, b) => a - b);
  const least = Math.log(Math.max(LEAST_GAPS * (gaps[gaps.length >> 1] ?? 0), 0.02 * deviation));
  const most = Math.log(4 * deviation);
  // Misses are taken in price, over what a vol moves it by: no vol is solved for on the way.
  const quoted = pricedAt(k, (i) => vol[i]! * Math.sqrt(years), years);
  const grid = floor
    ? comparisonGrid(deviation * deviation, FLOOR_SAMPLES).filter((at) => isWorthSomething(at, floor(at)))
    : new Float64Array(0);
  const under = pricedAt(grid, (i) => Math.sqrt(floor!(grid[i]!)), years);
  const residuals = (x: Float64Array, out: Float64Array) => {
    const mixture = mixtureOf(x, states);
    for (let i = 0; i < count; i++) {
      out[i] = softened((priceOf(mixture, quoted, i) - quoted.price[i]!) / (quoted.perVol[i]! * unit[i]!), huber);
    }
    for (let i = 0; i < grid.length; i++) {
      const short = under.price[i]! - priceOf(mixture, under, i);
      out[count + i] = short > 0 ? short / (under.perVol[i]! * FLOOR_UNIT) : 0;
    }
  };
  const project = (x: Float64Array) => {
    for (let j = 0; j < states - 1; j++) x[j] = Math.min(Math.max(x[j]!, -MOST_LOGIT), MOST_LOGIT);
    for (let j = states - 1; j < 2 * states - 2; j++) x[j] = Math.min(Math.max(x[j]!, -3), 3);
    for (let j = 2 * states - 2; j < x.length; j++) x[j] = Math.min(Math.max(x[j]!, least), most);
  };
  return { residuals, count: count + grid.length, project };
}

function bestMixture(points: FitPoints, deviation: number, states: number, from: Mixture) {
  const { k, years } = points;
  const { residuals, count, project } = searchOf(points, deviation, states);
  const starts = states === 2 ? startsOfTwo(deviation) : startsOfThree(from);
  const tried = starts
    .map((x) => ({ x, loss: leastSquares(residuals, x, count, { steps: FIRST_STEPS, project }) }))
    .sort((a, b) => a.loss - b.loss);
  const best = tried[0];
  if (!best) return null;
  leastSquares(residuals, best.x, count, { steps: STEPS, project });
  const mixture = mixtureOf(best.x, states);
  const point: VarianceAt = { w: 0, slope: 0, curvature: 0 };
  const loss = lossOf(points, (i) => Math.sqrt(mixtureAt(mixture, k[i]!, point).w / years));
  return Number.isFinite(loss) ? { mixture, loss } : null;
}

/**
 * A mixture fitted again over a floor of total variances; what is still under it is spread by more variance for all states,
 * which an independent lognormal factor would add.
 *
 * @param isOver whether a mixture keeps over the floor
 */
export function mixtureOver(
  points: FitPoints,
  mixture: Mixture,
  floor: (k: number) => number,
  isOver: (mixture: Mixture) => boolean,
): Mixture {
  const states = mixture.length / PER_STATE;
  const deviation = Math.sqrt(Math.max(floor(0), mixtureAt(mixture, 0, { w: 0, slope: 0, curvature: 0 }).w));
  const { residuals, count, project } = searchOf(points, deviation, states, floor);
  const x = freeNumbers(mixture);
  leastSquares(residuals, x, count, { steps: STEPS, project });
  const found = mixtureOf(x, states);
  let [lo, hi] = [0, 1e-4 * deviation * deviation];
  const spread = (variance: number) =>
    found.map((value, at) => (at % PER_STATE === 2 ? Math.sqrt(value * value + variance) : value));
  if (isOver(found)) return found;
  while (!isOver(spread(hi)) && hi < 100) [lo, hi] = [hi, 4 * hi];
  for (let step = 0; step < 20; step++) {
    const middle = 0.5 * (lo + hi);
    if (isOver(spread(middle))) hi = middle;
    else lo = middle;
  }
  return spread(hi);
}

/** What {@link mixtureOf} makes a mixture of. */
function freeNumbers(mixture: Mixture): Float64Array {
  const states = Array.from({ length: mixture.length / PER_STATE }, (_, j) => mixture.slice(PER_STATE * j));
  const last = states.at(-1)!;
  const rest = states.slice(0, -1);
  return Float64Array.of(
    ...rest.map(([weight]) => Math.log(weight! / last[0]!)),
    ...rest.map(([, multiple]) => Math.log(multiple! / last[1]!)),
    ...states.map(([, , deviation]) => Math.log(deviation!)),
  );
}

function startsOfTwo(deviation: number): Float64Array[] {
  return STARTS.map(({ apart, share, width }) =>
    Float64Array.of(
      Math.log(share / (1 - share)),
      -apart * deviation,
      Math.log(width * deviation),
      Math.log(width * deviation),
    ),
  );
}

/** Each of the two states split, and a wide one added. */
function startsOfThree([w1, f1, s1, w2, f2, s2]: Mixture): Float64Array[] {
  const last = Math.log(f2!);
  const start = (share: number[], multiple: number[], deviation: number[]) =>
    Float64Array.of(
      Math.log(share[0]! / share[2]!),
      Math.log(share[1]! / share[2]!),
      Math.log(multiple[0]!) - Math.log(multiple[2]!),
      Math.log(multiple[1]!) - Math.log(multiple[2]!),
      ...deviation.map(Math.log),
    );
  return [
    start(
      [w1! / 2, w1! / 2, w2!],
      [f1! * Math.exp(-0.5 * s1!), f1! * Math.exp(0.5 * s1!), f2!],
      [s1! / 2, s1! / 2, s2!],
    ),
    start(
      [w2! / 2, w2! / 2, w1!],
      [f2! * Math.exp(-0.5 * s2!), f2! * Math.exp(0.5 * s2!), f1!],
      [s2! / 2, s2! / 2, s1!],
    ),
    start(
      [0.9 * w1!, 0.1, 0.9 * w2!],
      [f1!, Math.exp(0.5 * (Math.log(f1!) + last)), f2!],
      [s1!, 2 * Math.max(s1!, s2!), s2!],
    ),
  ];
}
