import { normalCdf, scaledTail } from '../distributions';

/**
 * Probability that a geometric Brownian motion reaches a level at any time up to expiry, watched
 * continuously (reflection principle; Shreve, "Stochastic Calculus for Finance II", section 7.3).
 *
 * @param spot price now
 * @param level level to be reached
 * @param drift growth rate of the forward, r − q (0 for a future)
 * @returns 1 when the price is on the level; NaN for a spot or level that is not positive, or without a vol
 */
export function touchProbability(spot: number, level: number, years: number, drift: number, vol: number): number {
  if (!(spot > 0 && level > 0) || Number.isNaN(vol)) return NaN;
  const distance = Math.log(level / spot);
  if (distance === 0) return 1;
  const deviation = vol * Math.sqrt(years);
  const up = Math.sign(distance);
  if (!(deviation > 0)) return up * drift * years >= Math.abs(distance) ? 1 : 0;
  const logDrift = drift - 0.5 * vol * vol;
  const travelled = up * logDrift * years;
  const h = Math.abs(distance);
  const ended = normalCdf((travelled - h) / deviation);
  // The weight e^(2μh/σ²) overflows where the reflected tail vanishes; written with the scaled tail their
  // product is a single bounded exponential.
  const z = (travelled + h) / deviation;
  const gap = (travelled - h) / deviation;
  const echo =
    z >= 0
      ? Math.exp(-0.5 * gap * gap) * scaledTail(Math.min(z, 1e30))
      : Math.exp((2 * logDrift * distance) / (vol * vol)) * normalCdf(-z);
  return Math.min(1, ended + echo);
}

/** Terms of either series that are summed at most; both fall like a Gaussian. */
const MOST_TERMS = 60;
/** Terms under it change no digit. */
const NEGLIGIBLE = 1e-18;

/**
 * Probability that a geometric Brownian motion leaves the corridor between two levels at any time up to expiry, watched
 * continuously (two absorbing barriers: D. Cox and H. Miller, "The Theory of Stochastic Processes", 1965, section 5.7). Images
 * are summed while the corridor is wide against a deviation, sines where it is narrow.
 *
 * @param spot price now, between the levels
 * @param drift growth rate of the forward, r − q (0 for a future)
 * @returns 1 when the price is on a level or beyond; NaN for a price or level that is not positive, or without a vol
 */
export function exitProbability(
  spot: number,
  [lower, upper]: readonly [number, number],
  years: number,
  drift: number,
  vol: number,
): number {
  if (!(spot > 0 && lower > 0 && upper > 0) || Number.isNaN(vol)) return NaN;
  const [a, b] = [Math.log(lower / spot), Math.log(upper / spot)];
  if (!(a < 0 && b > 0)) return 1;
  const s = vol * Math.sqrt(years);
  // Without vol it goes one way only.
  if (!(s > 0)) return drift * years >= b || drift * years <= a ? 1 : 0;
  const m = (drift - 0.5 * vol * vol) * years;
  const stays = s < b - a ? staysByImages(a, b, s, m) : staysBySines(a, b, s, m);
  return Math.min(1, Math.max(0, 1 - stays));
}

/** Probability to stay between a and b: of every image of the start what ends between them. */
function staysByImages(a: number, b: number, s: number, m: number): number {
  const between = (centre: number) => normalCdf((b - centre) / s) - normalCdf((a - centre) / s);
  const weighed = (image: number) => {
    const share = between(image + m);
    return share > 0 ? Math.exp((m * image) / (s * s)) * share : 0;
  };
  const width = b - a;
  let sum = weighed(0) - weighed(2 * b);
  for (let n = 1; n < MOST_TERMS; n++) {
    const more = weighed(2 * n * width) + weighed(-2 * n * width);
    const less = weighed(2 * b + 2 * n * width) + weighed(2 * b - 2 * n * width);
    sum += more - less;
    if (more + less < NEGLIGIBLE) break;
  }
  return sum;
}

/** The same by the eigenfunctions of the corridor. */
function staysBySines(a: number, b: number, s: number, m: number): number {
  const width = b - a;
  const tilt = m / (s * s);
  let sum = 0;
  for (let n = 1; n < MOST_TERMS; n++) {
    const rate = (n * Math.PI) / width;
    // The tilt of the drift and its cost belong into one exponent: alone they overflow.
    const fade = -0.5 * (rate * rate * s * s + m * tilt);
    const ends = Math.exp(tilt * a + fade) - (n % 2 === 0 ? 1 : -1) * Math.exp(tilt * b + fade);
    const term = (Math.sin(-rate * a) * rate * ends) / (tilt * tilt + rate * rate);
    sum += term;
    if (Math.exp(-0.5 * rate * rate * s * s) < NEGLIGIBLE) break;
  }
  return (2 / width) * sum;
}
