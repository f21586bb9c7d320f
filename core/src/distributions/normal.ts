import { scaledTail } from './elementary';

export const INV_SQRT_2PI = 0.3989422804014327;

/** Beyond this the lower tail is under the smallest double. */
const TAIL_END = 38.6;

/**
 * exp(−z²/2) with full relative precision: z is split so that the square of its leading part is exact
 * (the argument split of W. J. Cody, "Rational Chebyshev approximations for the error function", 1969).
 */
function gaussian(z: number): number {
  const head = Math.trunc(z * 16) / 16;
  return Math.exp(-0.5 * head * head) * Math.exp(-0.5 * (z - head) * (z + head));
}

/**
 * The standard normal distribution function N(z), relative error about 1e-15 in the lower tail too.
 *
 * @returns 0 below −38.6, 1 for large z, NaN for NaN
 */
export function normalCdf(z: number): number {
  const distance = Math.abs(z);
  if (distance > TAIL_END) return z < 0 ? 0 : 1;
  const tail = gaussian(distance) * scaledTail(distance);
  return z < 0 ? tail : 1 - tail;
}

/** The standard normal density n(z) = exp(−z²/2)/√(2π). */
export function normalDensity(z: number): number {
  return INV_SQRT_2PI * gaussian(z);
}

const CENTRAL_P = [
  3.387132872796366608, 133.14166789178437745, 1971.5909503065514427, 13731.693765509461125, 45921.953931549871457,
  67265.770927008700853, 33430.575583588128105, 2509.0809287301226727,
];
const CENTRAL_Q = [
  1, 42.313330701600911252, 687.1870074920579083, 5394.1960214247511077, 21213.794301586595867, 39307.89580009271061,
  28729.085735721942674, 5226.495278852854561,
];
const MIDDLE_P = [
  1.42343711074968357734, 4.6303378461565452959, 5.7694972214606914055, 3.64784832476320460504, 1.27045825245236838258,
  0.24178072517745061177, 0.0227238449892691845833, 7.7454501427834140764e-4,
];
const MIDDLE_Q = [
  1, 2.05319162663775882187, 1.6763848301838038494, 0.68976733498510000455, 0.14810397642748007459,
  0.0151986665636164571966, 5.475938084995344946e-4, 1.05075007164441684324e-9,
];
const FAR_P = [
  6.6579046435011037772, 5.4637849111641143699, 1.7848265399172913358, 0.29656057182850489123, 0.026532189526576123093,
  0.0012426609473880784386, 2.71155556874348757815e-5, 2.01033439929228813265e-7,
];
const FAR_Q = [
  1, 0.59983220655588793769, 0.13692988092273580531, 0.0148753612908506148525, 7.868691311456132591e-4,
  1.8463183175100546818e-5, 1.4215117583164458887e-7, 2.04426310338993978564e-15,
];

function polynomial(coefficients: readonly number[], x: number): number {
  let value = 0;
  for (let i = coefficients.length - 1; i >= 0; i--) value = value * x + coefficients[i]!;
  return value;
}

/**
 * The inverse of the standard normal distribution function.
 * M. J. Wichura, "Algorithm AS 241: The percentage points of the normal distribution" (1988), routine
 * PPND16, then one Newton step against {@link normalCdf} on the lower tail.
 *
 * @param p probability
 * @returns the quantile; −∞ at 0, ∞ at 1, NaN outside [0, 1]
 */
export function normalInverse(p: number): number {
  if (!(p >= 0 && p <= 1)) return NaN;
  if (p === 0) return -Infinity;
  if (p === 1) return Infinity;
  const q = p - 0.5;
  if (Math.abs(q) <= 0.425) {
    const r = 0.180625 - q * q;
    return (q * polynomial(CENTRAL_P, r)) / polynomial(CENTRAL_Q, r);
  }
  const tail = q < 0 ? p : 1 - p;
  let r = Math.sqrt(-Math.log(tail));
  let z: number;
  if (r <= 5) {
    r -= 1.6;
    z = polynomial(MIDDLE_P, r) / polynomial(MIDDLE_Q, r);
  } else {
    r -= 5;
    z = polynomial(FAR_P, r) / polynomial(FAR_Q, r);
  }
  const density = normalDensity(z);
  if (density > 1e-290) z += (normalCdf(-z) - tail) / density;
  return q < 0 ? -z : z;
}
