import { exp, log, scaledTail, INV_SQRT_2PI } from '../distributions';
import { logRatio, SMALL_T, tailDifference } from '../models';

/**
 * Implied volatility in the normalized coordinates of P. Jäckel, "By Implication" (2006) and "Let's Be
 * Rational" (2015): with X = |ln(F/K)| and s = σ√T the out-of-the-money price is
 * √(FK)·e^(−(y²+t²)/2)·(R(y − t) − R(y + t)), y = X/s, t = s/2, R the scaled normal tail.
 *
 * The guess is read from a table of bicubics over w = ln(1 + |F − K|/price) and ρ = X/w (error under
 * 1.1e-6), so one fourth-order Householder step finishes; what lies outside the table is solved by a
 * bracketed Newton iteration on the logarithm of the price.
 */

/**
 * Solves for s outside the table.
 *
 * @param x |ln(F/K)|
 * @param price out-of-the-money price ÷ √(FK)
 * @param top its upper bound, √(min/max) of forward and strike
 */
function solveBracketed(x: number, price: number, top: number): number {
  if (!(price > 0) || !(price < top)) return NaN;
  const isUpper = price > 0.5 * top;
  const target = isUpper ? Math.log(top - price) : Math.log(price);
  let lo = isUpper ? Math.sqrt(2 * x) : 0;
  let hi = Infinity;
  const w = Math.log1p((2 * Math.sinh(0.5 * x)) / price);
  const rho = w > 0 ? Math.min(x / w, 1) : price;
  let s = x > 0 ? rho * (Math.sqrt(2 * w) / (1 + Math.sqrt(1 - rho)) + 2.5 / (1 + w)) : 2.5 * price;
  if (s <= lo) s = lo + 0.5;
  for (let pass = 0; pass < 200; pass++) {
    const y = x / s;
    const t = 0.5 * s;
    const e = -0.5 * (y * y + t * t);
    let gap: number;
    let slope: number;
    if (isUpper) {
      const m = scaledTail(Math.abs(t - y)) + scaledTail(t + y);
      gap = e + Math.log(m) - target;
      slope = -INV_SQRT_2PI / m;
      if (gap < 0) hi = s;
      else lo = s;
    } else {
      const m =
        t < SMALL_T
          ? tailDifference(y, t)
          : y >= t
            ? scaledTail(y - t) - scaledTail(y + t)
            : Math.exp(Math.min(-0.5 * x - e, 700)) - scaledTail(t - y) - scaledTail(t + y);
      gap = e + Math.log(m) - target;
      slope = INV_SQRT_2PI / m;
      if (gap > 0) hi = s;
      else lo = s;
    }
    let next = s - gap / slope;
    if (!(next > lo && next < hi)) {
      next = hi < Infinity ? (lo > 0 ? Math.sqrt(lo * hi) : 0.5 * hi) : 2 * s;
    }
    const step = Math.abs(next - s);
    s = next;
    if (step <= 4e-16 * s || hi - lo <= 4e-16 * s) break;
  }
  return s;
}

const ROWS_PER_OCTAVE = 4;
const OCTAVES = 9;
const ROWS = OCTAVES * ROWS_PER_OCTAVE;
const CELLS_PER_ROW = 16;
const W_MAX = 2 ** OCTAVES - 1;
const TABLE = new Float64Array(ROWS * CELLS_PER_ROW * 16);
const ROW_CENTRE = new Float64Array(ROWS);
const ROW_SCALE = new Float64Array(ROWS);
const CELLS = new Float64Array(ROWS);
buildTable();

/** Fits one bicubic per cell through the Chebyshev nodes of the exact solution, as monomials. */
function buildTable(): void {
  const node = [0, 1, 2, 3].map((k) => Math.cos((Math.PI * (2 * k + 1)) / 8));
  const chebyshev = [
    [1, 0, 0, 0],
    [0, 1, 0, 0],
    [-1, 0, 2, 0],
    [0, -3, 0, 4],
  ];
  const sample = new Float64Array(16);
  for (let i = 0; i < ROWS; i++) {
    const base = 2 ** Math.floor(i / ROWS_PER_OCTAVE);
    const half = (0.5 * base) / ROWS_PER_OCTAVE;
    ROW_CENTRE[i] = base * (1 + (i % ROWS_PER_OCTAVE) / ROWS_PER_OCTAVE) + half;
    ROW_SCALE[i] = 1 / half;
    CELLS[i] = 20 * 2 ** Math.max(0, Math.floor(i / ROWS_PER_OCTAVE) - 4);
    for (let j = 0; j < CELLS_PER_ROW; j++) {
      for (let a = 0; a < 4; a++) {
        for (let b = 0; b < 4; b++) {
          const w = ROW_CENTRE[i]! + node[a]! / ROW_SCALE[i]! - 1;
          const rho = (j + 0.5 + 0.5 * node[b]!) / CELLS[i]!;
          const x = rho * w;
          const price = (2 * Math.sinh(0.5 * x)) / Math.expm1(w);
          sample[4 * a + b] = solveBracketed(x, price, Math.exp(-0.5 * x)) / rho;
        }
      }
      writeCell(16 * (i * CELLS_PER_ROW + j), sample, chebyshev);
    }
  }
}

function writeCell(at: number, sample: Float64Array, chebyshev: number[][]): void {
  const angle = (degree: number, k: number) => Math.cos((degree * Math.PI * (2 * k + 1)) / 8);
  const coefficient = new Float64Array(16);
  for (let p = 0; p < 4; p++) {
    for (let q = 0; q < 4; q++) {
      let sum = 0;
      for (let a = 0; a < 4; a++) {
        for (let b = 0; b < 4; b++) sum += sample[4 * a + b]! * angle(p, a) * angle(q, b);
      }
      coefficient[4 * p + q] = (sum * (p ? 2 : 1) * (q ? 2 : 1)) / 16;
    }
  }
  for (let p = 0; p < 4; p++) {
    for (let q = 0; q < 4; q++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) {
        for (let l = 0; l < 4; l++) sum += coefficient[4 * k + l]! * chebyshev[k]![p]! * chebyshev[l]![q]!;
      }
      TABLE[at + 4 * p + q] = sum;
    }
  }
}

const DOUBLE = new Float64Array(1);
const HIGH = new Int32Array(DOUBLE.buffer);
const BLOCK = 256;
const LO = new Float64Array(BLOCK);
const UP = new Float64Array(BLOCK);
const PRICE = new Float64Array(BLOCK);
const LOG_MONEYNESS = new Float64Array(BLOCK);
const WIDTH = new Float64Array(BLOCK);
const RATIO = new Float64Array(BLOCK);
const DEVIATION = new Float64Array(BLOCK);
const EXPONENT = new Float64Array(BLOCK);

function normalize(
  forward: Float64Array,
  strike: Float64Array,
  price: Float64Array,
  sign: Float64Array,
  from: number,
  count: number,
): void {
  for (let j = 0; j < count; j++) {
    const i = from + j;
    const f = forward[i]!;
    const k = strike[i]!;
    const lo = Math.min(f, k);
    const hi = Math.max(f, k);
    const gap = hi - lo;
    const c = price[i]! - Math.max(0, sign[i]! > 0 ? f - k : k - f);
    const p = gap / c;
    const x = logRatio(hi, lo);
    LO[j] = lo;
    UP[j] = hi;
    PRICE[j] = c;
    LOG_MONEYNESS[j] = x;
    if (p > 1e-8) {
      const w = log(1 + p);
      WIDTH[j] = w;
      RATIO[j] = x / w;
    } else {
      WIDTH[j] = p;
      RATIO[j] = (c / lo) * (1 - (0.5 * gap) / lo + 0.5 * p);
    }
  }
}

/** Reads the guess from the table; a negative deviation marks what lies outside it. */
function guess(count: number): void {
  for (let k = 0; k < count; k++) {
    const w = WIDTH[k]!;
    const rho = RATIO[k]!;
    const u = 1 + Math.min(w, W_MAX - 1);
    DOUBLE[0] = u;
    const i = (HIGH[1]! >> 18) - 4092;
    const cell = rho * CELLS[i]!;
    let s = -1;
    let e = 0;
    if (cell < CELLS_PER_ROW && w < W_MAX - 1 && PRICE[k]! > 0 && PRICE[k]! < LO[k]!) {
      const j = cell | 0;
      const a = (u - ROW_CENTRE[i]!) * ROW_SCALE[i]!;
      const b = 2 * (cell - j) - 1;
      const b2 = b * b;
      const c = (i * CELLS_PER_ROW + j) << 4;
      const m0 = TABLE[c]! + TABLE[c + 1]! * b + b2 * (TABLE[c + 2]! + TABLE[c + 3]! * b);
      const m1 = TABLE[c + 4]! + TABLE[c + 5]! * b + b2 * (TABLE[c + 6]! + TABLE[c + 7]! * b);
      const m2 = TABLE[c + 8]! + TABLE[c + 9]! * b + b2 * (TABLE[c + 10]! + TABLE[c + 11]! * b);
      const m3 = TABLE[c + 12]! + TABLE[c + 13]! * b + b2 * (TABLE[c + 14]! + TABLE[c + 15]! * b);
      s = rho * (m0 + m1 * a + a * a * (m2 + m3 * a));
      const y = LOG_MONEYNESS[k]! / s;
      const t = 0.5 * s;
      e = -0.5 * (y * y + t * t);
    }
    DEVIATION[k] = s;
    EXPONENT[k] = e;
  }
}

function improve(out: Float64Array, from: number, count: number): void {
  for (let k = 0; k < count; k++) {
    const s = DEVIATION[k]!;
    const x = LOG_MONEYNESS[k]!;
    const lo = LO[k]!;
    const c = PRICE[k]!;
    const scale = Math.sqrt(lo * UP[k]!);
    if (s < 0) {
      out[from + k] = solveBracketed(x, c / scale, Math.sqrt(lo / UP[k]!));
      continue;
    }
    const inverse = 1 / s;
    const y = x * inverse;
    const t = 0.5 * s;
    const bell = scale * EXPONENT[k]!;
    let model: number;
    if (t < SMALL_T) model = bell * tailDifference(y, t);
    else {
      const ra = scaledTail(Math.abs(y - t));
      const rb = scaledTail(y + t);
      model = y >= t ? bell * (ra - rb) : lo - bell * (ra + rb);
    }
    const newton = (c - model) / (bell * INV_SQRT_2PI);
    const y2 = y * inverse * y;
    const h2 = y2 - 0.25 * s;
    const h3 = h2 * h2 - 3 * y2 * inverse - 0.25;
    out[from + k] = s + (newton * (1 + 0.5 * h2 * newton)) / (1 + newton * (h2 + newton * h3 * (1 / 6)));
  }
}

/**
 * Total deviations s = σ√T from undiscounted prices, into the caller's column. An answer that does not
 * exist (price at or under intrinsic, at or over its maximum) is NaN.
 *
 * @param forward forwards, positive
 * @param strike strikes, positive
 * @param price undiscounted option prices
 * @param sign +1 call, −1 put
 */
export function impliedDeviation(
  forward: Float64Array,
  strike: Float64Array,
  price: Float64Array,
  sign: Float64Array,
  out: Float64Array,
  count: number,
): void {
  for (let from = 0; from < count; from += BLOCK) {
    const size = Math.min(BLOCK, count - from);
    normalize(forward, strike, price, sign, from, size);
    guess(size);
    for (let k = 0; k < size; k++) EXPONENT[k] = exp(EXPONENT[k]!);
    improve(out, from, size);
  }
}

/** Implied volatilities of undiscounted prices: {@link impliedDeviation} ÷ √years. */
export function impliedVols(
  forward: Float64Array,
  strike: Float64Array,
  years: Float64Array,
  price: Float64Array,
  sign: Float64Array,
  out: Float64Array,
  count: number,
): void {
  impliedDeviation(forward, strike, price, sign, out, count);
  for (let i = 0; i < count; i++) out[i] = out[i]! / Math.sqrt(years[i]!);
}
