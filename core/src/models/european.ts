import { exp, log, scaledTail, INV_SQRT_2PI } from '../distributions';
import { DAYS_PER_YEAR } from './model';
import { logRatio, outOfTheMoney } from './normalized';

/**
 * Contracts of a batch, one array per input, all of one length.
 * `yield` is the dividend yield of black-scholes-merton, the foreign rate of garman-kohlhagen and the
 * rate itself for black-76 (spot then holds the forward): that is how one formula serves the three.
 */
export interface EuropeanColumns {
  readonly spot: Float64Array;
  readonly strike: Float64Array;
  readonly years: Float64Array;
  readonly rate: Float64Array;
  readonly yield: Float64Array;
  readonly vol: Float64Array;
  /** +1 call, −1 put. */
  readonly sign: Float64Array;
}

/** Results of a batch. Theta per day, vega per vol point, rho per percentage point, itm a probability. */
export interface FirstOrderColumns {
  readonly price: Float64Array;
  readonly delta: Float64Array;
  readonly gamma: Float64Array;
  readonly theta: Float64Array;
  readonly vega: Float64Array;
  readonly rho: Float64Array;
  readonly itm: Float64Array;
}

/** Contract columns of a given length, to be filled. */
export function makeEuropean(length: number): EuropeanColumns {
  const column = () => new Float64Array(length);
  return {
    spot: column(),
    strike: column(),
    years: column(),
    rate: column(),
    yield: column(),
    vol: column(),
    sign: column(),
  };
}

/** Result columns of a given length. */
export function makeFirstOrder(length: number): FirstOrderColumns {
  const column = () => new Float64Array(length);
  return {
    price: column(),
    delta: column(),
    gamma: column(),
    theta: column(),
    vega: column(),
    rho: column(),
    itm: column(),
  };
}

// N(u) = OFFSET[s] + SLOPE[s]·tail, with s = 1 for u < 0: a choice between doubles becomes a jump that
// random signs mispredict half of the time; a two-entry table has no jump.
const OFFSET = Float64Array.of(1, 0);
const SLOPE = Float64Array.of(-1, 1);

// Three short loops over blocks that stay in the first-level cache, rather than one long body: each fits
// the optimizing compiler's inlining budget and its registers.
const BLOCK = 512;
const D1 = new Float64Array(BLOCK);
const DEVIATION = new Float64Array(BLOCK);
const EXPONENT = new Float64Array(3 * BLOCK);

/**
 * Prices and first-order Greeks of European options by Black–Scholes–Merton (Merton 1973), into the
 * caller's columns. See {@link EuropeanColumns} for how black-76 and garman-kohlhagen map onto it.
 * Rho here holds the spot; black-76 wants the forward held and is corrected by the caller.
 *
 * Where σ√T is zero the limits are returned: discounted intrinsic value, a delta of one side of the step
 * (one half at the forward), no gamma or vega away from the forward and an infinite gamma on it.
 *
 * @param input contracts, spot and strike positive
 * @param out results, at least as long as `count`
 * @param count number of contracts
 */
export function priceEuropean(input: EuropeanColumns, out: FirstOrderColumns, count: number): void {
  for (let from = 0; from < count; from += BLOCK) {
    const to = Math.min(count, from + BLOCK);
    prepare(input.spot, input.strike, input.years, input.rate, input.yield, input.vol, from, to);
    // The three parts of a block lie behind each other: a whole block is one loop.
    const size = to - from;
    if (size === BLOCK) exponentials(0, 3 * BLOCK);
    else for (let part = 0; part < 3; part++) exponentials(part * BLOCK, part * BLOCK + size);
    finish(input, out, from, to);
    for (let i = from; i < to; i++) {
      // Next to what its two terms are worth a small price has lost digits; without deviation it is not a number.
      if (!(out.price[i]! > LOST * Math.abs(out.delta[i]!) * input.spot[i]!)) finishSmall(input, out, i);
    }
  }
}

function exponentials(from: number, to: number): void {
  for (let j = from; j < to; j++) EXPONENT[j] = exp(EXPONENT[j]!);
}

/** A price under this share of its larger term is had without taking a difference. */
const LOST = 1e-3;

function prepare(
  spot: Float64Array,
  strike: Float64Array,
  years: Float64Array,
  rate: Float64Array,
  carryYield: Float64Array,
  vol: Float64Array,
  from: number,
  to: number,
): void {
  for (let i = from, j = 0; i < to; i++, j++) {
    const t = years[i]!;
    const r = rate[i]!;
    const q = carryYield[i]!;
    const deviation = vol[i]! * Math.sqrt(t);
    const d1 = (log(spot[i]! / strike[i]!) + (r - q) * t) / deviation + 0.5 * deviation;
    D1[j] = d1;
    DEVIATION[j] = deviation;
    EXPONENT[j] = -0.5 * d1 * d1;
    EXPONENT[j + BLOCK] = -q * t;
    EXPONENT[j + 2 * BLOCK] = -r * t;
  }
}

function finish(input: EuropeanColumns, out: FirstOrderColumns, from: number, to: number): void {
  const { spot, strike, years, rate, vol, sign } = input;
  const carryYield = input.yield;
  const { price, delta, gamma, theta, vega, rho, itm } = out;
  for (let i = from, j = 0; i < to; i++, j++) {
    const s = spot[i]!;
    const t = years[i]!;
    const w = sign[i]!;
    const d1 = D1[j]!;
    const deviation = DEVIATION[j]!;
    const d2 = d1 - deviation;
    const bell = EXPONENT[j]!;
    const spotValue = s * EXPONENT[j + BLOCK]!;
    const strikeValue = strike[i]! * EXPONENT[j + 2 * BLOCK]!;
    // One exponential serves both tails and the density, since S'·n(d1) = K'·n(d2).
    const tail1 = bell * scaledTail(Math.abs(d1));
    const tail2 = bell * (spotValue / strikeValue) * scaledTail(Math.abs(d2));
    const below1 = Number(w * d1 < 0);
    const below2 = Number(w * d2 < 0);
    const n2 = OFFSET[below2]! + SLOPE[below2]! * tail2;
    const a = spotValue * (OFFSET[below1]! + SLOPE[below1]! * tail1);
    const b = strikeValue * n2;
    const density = spotValue * bell * INV_SQRT_2PI;
    const inverseSpot = 1 / s;
    const rootYears = Math.sqrt(t);
    price[i] = w * (a - b);
    delta[i] = w * a * inverseSpot;
    gamma[i] = (density * inverseSpot * inverseSpot) / deviation;
    theta[i] = (w * (carryYield[i]! * a - rate[i]! * b) - (density * vol[i]!) / (2 * rootYears)) * (1 / DAYS_PER_YEAR);
    vega[i] = density * rootYears * 0.01;
    rho[i] = w * b * t * 0.01;
    itm[i] = n2;
  }
}

/** What the fast loop answers with few digits, or not at all. */
function finishSmall(input: EuropeanColumns, out: FirstOrderColumns, i: number): void {
  const deviation = input.vol[i]! * Math.sqrt(input.years[i]!);
  const [s, k] = [input.spot[i]!, input.strike[i]!];
  const carry = (input.rate[i]! - input.yield[i]!) * input.years[i]!;
  const x = Math.abs((s > k ? logRatio(s, k) : -logRatio(k, s)) + carry);
  const isDegenerate = !(deviation > 0 && deviation < Infinity && x < Infinity) || !(x / deviation < 1e8);
  if (isDegenerate) return finishDegenerate(input, out, i);
  const spotValue = s * Math.exp(-input.yield[i]! * input.years[i]!);
  const strikeValue = k * Math.exp(-input.rate[i]! * input.years[i]!);
  const intrinsic = Math.max(input.sign[i]! * (spotValue - strikeValue), 0);
  out.price[i] = intrinsic + Math.sqrt(spotValue) * Math.sqrt(strikeValue) * outOfTheMoney(x, deviation);
}

/** No deviation at all, or a forward so many deviations away that nothing moves any longer. */
function finishDegenerate(input: EuropeanColumns, out: FirstOrderColumns, i: number): void {
  const s = input.spot[i]!;
  const t = input.years[i]!;
  const w = input.sign[i]!;
  const spotValue = s * Math.exp(-input.yield[i]! * t);
  const strikeValue = input.strike[i]! * Math.exp(-input.rate[i]! * t);
  const deviation = input.vol[i]! * Math.sqrt(t);
  const inputsAreUsable = spotValue > 0 && strikeValue > 0 && deviation >= 0 && deviation < Infinity;
  if (!inputsAreUsable) {
    out.price[i] = out.delta[i] = out.gamma[i] = out.theta[i] = NaN;
    out.vega[i] = out.rho[i] = out.itm[i] = NaN;
    return;
  }
  // The step is exact at zero deviation and right to rounding for a forward many deviations away.
  const side = w * (spotValue - strikeValue);
  const isAtForward = side === 0;
  const step = isAtForward ? 0.5 : side > 0 ? 1 : 0;
  out.price[i] = Math.max(side, 0);
  out.delta[i] = (w * step * spotValue) / s;
  out.gamma[i] = isAtForward ? Infinity : 0;
  out.theta[i] = (w * step * (input.yield[i]! * spotValue - input.rate[i]! * strikeValue)) / DAYS_PER_YEAR;
  out.vega[i] = isAtForward ? spotValue * Math.sqrt(t) * INV_SQRT_2PI * 0.01 : 0;
  out.rho[i] = w * step * strikeValue * t * 0.01;
  out.itm[i] = step;
}
