import { log, scaledTail, INV_SQRT_2PI } from '../distributions';

/**
 * The out-of-the-money price in the normalized coordinates of P. Jäckel, "By Implication" (2006): with x = |ln(F/K)| and
 * s = σ√T it is √(FK)·e^(−(y²+t²)/2)·(R(y − t) − R(y + t)), y = x/s, t = s/2, R the scaled normal tail. Written so, no
 * digits are lost however small it is.
 */

/** Under this t the difference of the tails is summed as a series. */
export const SMALL_T = 0.1;

/** From here the recurrence of the derivatives loses digits upwards, and is run downwards. */
const FAR = 5;
const DERIVATIVES = 40;
const DOWNWARD = new Float64Array(DERIVATIVES + 2);

/**
 * R(y − t) − R(y + t) by its Taylor series in t, where the difference itself would lose digits. The derivatives of R
 * follow from each other, d(n+1) = n·d(n−1) − y·d(n).
 */
export function tailDifference(y: number, t: number): number {
  const d0 = scaledTail(y);
  if (y > FAR) return farDifference(y, t, d0);
  const d1 = INV_SQRT_2PI - y * d0;
  const d2 = d0 - y * d1;
  const d3 = 2 * d1 - y * d2;
  const d4 = 3 * d2 - y * d3;
  const d5 = 4 * d3 - y * d4;
  const d6 = 5 * d4 - y * d5;
  const d7 = 6 * d5 - y * d6;
  const d8 = 7 * d6 - y * d7;
  const d9 = 8 * d7 - y * d8;
  const d10 = 9 * d8 - y * d9;
  const d11 = 10 * d9 - y * d10;
  const u = t * t;
  return (
    2 *
    t *
    (d1 +
      u *
        (d3 * (1 / 6) +
          u * (d5 * (1 / 120) + u * (d7 * (1 / 5040) + u * (d9 * (1 / 362880) + u * d11 * (1 / 39916800))))))
  );
}

/**
 * The same far out, where the derivatives are the minimal solution of their recurrence: from the far end, then scaled to
 * R(y) (J. C. P. Miller's algorithm; W. Gautschi, "Computational aspects of three-term recurrence relations", 1967).
 */
function farDifference(y: number, t: number, atY: number): number {
  const scale = fillDerivatives(y, atY);
  const d = DOWNWARD;
  const u = t * t;
  let sum = 0;
  for (let n = 11; n >= 1; n -= 2) sum = (sum * u) / ((n + 1) * (n + 2)) + d[n]!;
  return 2 * t * sum * scale;
}

function fillDerivatives(y: number, atY: number): number {
  const d = DOWNWARD;
  d[DERIVATIVES + 1] = 0;
  d[DERIVATIVES] = 1e-200;
  for (let n = DERIVATIVES; n > 0; n--) d[n - 1] = (d[n + 1]! + y * d[n]!) / n;
  return atY / d[0]!;
}

/** −R′(y) = 1/√(2π) − y·R(y), which is the price of the normal model in its own units. */
export function tailSlope(y: number): number {
  const atY = scaledTail(y);
  return y > FAR ? fillDerivatives(y, atY) * DOWNWARD[1]! : INV_SQRT_2PI - y * atY;
}

/**
 * Out-of-the-money price ÷ √(FK), undiscounted.
 *
 * @param x |ln(F/K)|
 * @param s σ√T, positive
 */
export function outOfTheMoney(x: number, s: number): number {
  const y = x / s;
  const t = 0.5 * s;
  const bell = Math.exp(-0.5 * y * y) * Math.exp(-0.5 * t * t);
  if (t < SMALL_T || t < 0.05 * y) return bell * tailDifference(y, t);
  if (y >= t) return bell * (scaledTail(y - t) - scaledTail(y + t));
  return Math.exp(-0.5 * x) - bell * (scaledTail(t - y) + scaledTail(t + y));
}

/** ln(hi/lo) with relative accuracy also for nearly equal arguments. */
export function logRatio(hi: number, lo: number): number {
  const z = (hi - lo) / lo;
  if (z > 0.5) return log(hi / lo);
  const u = 1 + z;
  return log(u) + (z - (u - 1)) * (1 - z);
}

/**
 * Undiscounted price of the lognormal models, of their inner value and what is out of the money.
 *
 * @param sign +1 call, −1 put
 * @param deviation s = σ√T, positive
 */
export function lognormalUndiscounted(sign: number, forward: number, strike: number, deviation: number): number {
  const x = forward > strike ? logRatio(forward, strike) : logRatio(strike, forward);
  return Math.max(0, sign * (forward - strike)) + Math.sqrt(forward * strike) * outOfTheMoney(x, deviation);
}
