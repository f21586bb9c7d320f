import { exp, log, scaledTail, INV_SQRT_2PI } from '../distributions';
import type { Collocation } from './collocation';

/**
 * The exercise boundary B(τ) of an American put with strike 1, by spectral collocation: L. Andersen, M. Lake and
 * D. Offengenden, "High-performance American option pricing" (Journal of Computational Finance, 2016).
 *
 * ln² (B/X), with X = min(1, r/q) the limit of B at expiry, is interpolated by Chebyshev polynomials in √τ. The boundary
 * is the fixed point of smooth pasting (their system A): with u = τ(1 − h²),
 *   B = e^(−(r−q)τ) · [n(d₋)/(σ√τ) + r K₃] / [n(d₊)/(σ√τ) + N(d₊) + q (K₁ + K₂)].
 * It starts from the QD+ approximation (M. Li, "Analytical approximations for the critical stock prices of American
 * options: a performance comparison", 2010). Where rates are high for the vol the fixed point is no contraction: Newton's
 * method on all nodes at once, with its matrix in closed form, converges there too. In stages over short arrays: long
 * bodies are not inlined.
 */

/** ln X: the logarithm of the boundary at expiry. */
export function logLimit(rate: number, carryYield: number): number {
  return carryYield > rate && rate > 0 ? log(rate / carryYield) : 0;
}

/**
 * Solves for the boundary, into `logBoundary` and `square` of the tables.
 *
 * @param rate r ≥ 0; where it is 0 the yield has to be negative, or nothing is exercised early
 * @param carryYield q
 * @param vol positive
 * @param years positive
 */
export function solveBoundary(tables: Collocation, rate: number, carryYield: number, vol: number, years: number): void {
  const limit = logLimit(rate, carryYield);
  startBoundary(tables, rate, carryYield, vol, years, limit);
  fillCells(tables, rate, carryYield, years);
  for (let step = 0; step < tables.steps; step++) {
    evaluate(tables, rate, carryYield, vol, limit, false);
    takeImage(tables, limit);
  }
  for (let step = 0; step < tables.newton; step++) {
    evaluate(tables, rate, carryYield, vol, limit, true);
    fillSystem(tables, limit);
    eliminate(tables.matrix, tables.move, tables.nodes);
    if (takeMove(tables, limit) < SETTLED) break;
  }
  fillSquares(tables, limit);
  const { solved } = tables;
  solved[0] = rate;
  solved[1] = carryYield;
  solved[2] = vol;
  solved[3] = years;
}

/** Whether the tables hold this very boundary: it does not depend on spot and strike. */
export function isSolved(
  { solved }: Collocation,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
): boolean {
  return solved[0] === rate && solved[1] === carryYield && solved[2] === vol && solved[3] === years;
}

/** Newton's method ends where it moves ln B by less: the next step would be some 400 times the square of this one. */
const SETTLED = 1e-8;
/** No step of Newton's method moves ln B by more: far from the solution its direction is right, its length is not. */
const LONGEST_STEP = 0.3;

function evaluate(
  tables: Collocation,
  rate: number,
  carryYield: number,
  vol: number,
  limit: number,
  hasSlopes: boolean,
): void {
  const cells = tables.nodes * tables.abscissae;
  fillSquares(tables, limit);
  fillDeviates(tables, limit);
  exponentials(tables.upperExponent, cells);
  exponentials(tables.lowerExponent, cells);
  fillImage(tables, rate, carryYield, vol, hasSlopes);
}

function takeImage({ nodes, logBoundary, image }: Collocation, limit: number): void {
  for (let i = 0; i < nodes; i++) logBoundary[i] = image[i]! < limit ? image[i]! : limit;
}

function takeMove({ nodes, logBoundary, move }: Collocation, limit: number): number {
  let largest = 0;
  for (let i = 0; i < nodes; i++) {
    const step = Math.max(-LONGEST_STEP, Math.min(LONGEST_STEP, move[i]!));
    const next = logBoundary[i]! + step;
    logBoundary[i] = next < limit ? next : limit;
    largest = Math.max(largest, Math.abs(step));
  }
  return largest;
}

function fillSquares({ nodes, logBoundary, square }: Collocation, limit: number): void {
  for (let i = 0; i < nodes; i++) square[i] = (logBoundary[i]! - limit) * (logBoundary[i]! - limit);
}

export function exponentials(values: Float64Array, count: number): void {
  for (let i = 0; i < count; i++) values[i] = exp(values[i]!);
}

/** The boundary lies under its limit, by little at least: at it the square is not smooth. */
const UNDER_LIMIT = 1e-9;
const LEAST_BOUNDARY = 1e-6;

function startBoundary(
  { nodes, root, tau, deviation, logBoundary, start }: Collocation,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
  limit: number,
): void {
  const carry = rate - carryYield;
  const variance = vol * vol;
  const n = (2 * carry) / variance;
  // Barone-Adesi and Whaley's interpolation to the perpetual boundary.
  const power = 0.5 * (1 - n - Math.sqrt((n - 1) * (n - 1) + (8 * rate) / variance));
  const perpetual = power / (power - 1);
  const atExpiry = exp(limit);
  for (let i = 0; i < nodes; i++) {
    const t = years * root[i]! * root[i]!;
    const s = vol * Math.sqrt(years) * root[i]!;
    tau[i] = t;
    deviation[i] = s;
    const discount = exp(-rate * t);
    const dividend = exp(-carryYield * t);
    // r/(1 − e^(−rτ)), which tends to 1/τ with r.
    const weight = rate * t > 1e-8 ? rate / (1 - discount) : 1 / t;
    const m = (2 / variance) * weight;
    const rootOf = Math.sqrt((n - 1) * (n - 1) + 4 * m);
    const lambda = 0.5 * (1 - n - rootOf);
    const slope = 2 * lambda + n - 1;
    const l = lambda - (discount / slope) * (m + (m * m) / (rootOf * slope));
    const k = 2 / (variance * slope);
    const far = perpetual + (atExpiry - perpetual) * exp(Math.min(0, (carry * t - 2 * s) / (1 - perpetual)));
    // The law of the boundary just before expiry.
    const near = (8 * Math.PI * t * carry * carry) / variance + 16 * Math.PI * rate * rate * t * t;
    const short = limit < 0 ? limit - 0.63 * s : -s * Math.sqrt(log(1 + 1 / near));
    let y = Math.min(log(Math.max(far, LEAST_BOUNDARY)), short);
    for (let step = 0; step < start; step++) {
      const b = exp(y);
      const d1 = (y + carry * t) / s + 0.5 * s;
      const d2 = d1 - s;
      const bell = exp(-0.5 * d1 * d1);
      const tail1 = bell * scaledTail(Math.abs(d1));
      const tail2 = ((bell * b * dividend) / discount) * scaledTail(Math.abs(d2));
      const under1 = d1 > 0 ? tail1 : 1 - tail1;
      const under2 = d2 > 0 ? tail2 : 1 - tail2;
      const density = dividend * bell * INV_SQRT_2PI;
      const a = 1 - dividend * under1;
      const gap = 1 - b - (discount * under2 - b * dividend * under1);
      const theta = rate * discount * under2 - carryYield * b * dividend * under1 - (0.5 * variance * b * density) / s;
      const thetaSlope =
        (density / s) * (carryYield - rate - 0.5 * variance * (1 - d1 / s)) - carryYield * dividend * under1;
      const value = a * b + l * gap + k * theta;
      const valueSlope = b * (a * (1 - l) + density / s + k * thetaSlope);
      const move = -value / valueSlope;
      const next = y + Math.max(-LONGEST_STEP, Math.min(LONGEST_STEP, move));
      y = next < limit - UNDER_LIMIT ? next : limit - UNDER_LIMIT;
    }
    logBoundary[i] = y;
  }
}

/** What depends on the cells but not on the boundary. */
function fillCells(tables: Collocation, rate: number, carryYield: number, years: number): void {
  fillTimes(tables, rate, carryYield, years);
  const { nodes, abscissae, cellH, deviation, cellDeviation, inverse } = tables;
  for (let i = 0, cell = 0; i < nodes; i++) {
    const s = deviation[i]!;
    for (let k = 0; k < abscissae; k++, cell++) {
      const ofCell = s * cellH[cell]!;
      cellDeviation[cell] = ofCell;
      inverse[cell] = 1 / ofCell;
    }
  }
}

/** What does not depend on the vol either: the same for all boundaries of an expiry. */
function fillTimes(tables: Collocation, rate: number, carryYield: number, years: number): void {
  const { nodes, abscissae, cellH, tau, drift, rateTime, yieldFactor, timed } = tables;
  if (timed[0] === rate && timed[1] === carryYield && timed[2] === years) return;
  timed[0] = rate;
  timed[1] = carryYield;
  timed[2] = years;
  const carry = rate - carryYield;
  for (let i = 0, cell = 0; i < nodes; i++) {
    const t = tau[i]!;
    for (let k = 0; k < abscissae; k++, cell++) {
      const x = cellH[cell]!;
      const passed = t * x * x;
      drift[cell] = carry * passed;
      rateTime[cell] = rate * (t - passed);
      yieldFactor[cell] = carryYield * (t - passed);
    }
  }
  exponentials(yieldFactor, nodes * abscissae);
}

/** The interpolated root is never quite zero: the abscissae divide by it. */
const LEAST_ROOT = 1e-150;

function fillDeviates(tables: Collocation, limit: number): void {
  const { nodes, abscissae, toCell, square, logBoundary, drift, inverse, cellDeviation, rateTime } = tables;
  const { cellRoot, upper, upperExponent, lowerExponent } = tables;
  for (let i = 0, cell = 0, at = 0; i < nodes; i++) {
    const gap = logBoundary[i]! - limit;
    for (let k = 0; k < abscissae; k++, cell++) {
      // Two sums, that no addition waits for the one before it.
      let even = 0;
      let odd = 0;
      for (let j = 1; j < nodes; j += 2, at += 2) {
        even += toCell[at]! * square[j - 1]!;
        odd += toCell[at + 1]! * square[j]!;
      }
      if (nodes % 2 === 1) even += toCell[at++]! * square[nodes - 1]!;
      const sum = even + odd;
      const s = cellDeviation[cell]!;
      const root = sum > 0 ? Math.max(Math.sqrt(sum), LEAST_ROOT) : LEAST_ROOT;
      cellRoot[cell] = root;
      const d2 = (gap + root + drift[cell]!) * inverse[cell]! - 0.5 * s;
      const d1 = d2 + s;
      upper[cell] = d1;
      upperExponent[cell] = -0.5 * d1 * d1;
      lowerExponent[cell] = rateTime[cell]! - 0.5 * d2 * d2;
    }
  }
}

// N(u) = OFFSET[s] + SLOPE[s]·tail, with s = 1 for u ≥ 0: a table has no jump that random signs would mispredict.
const OFFSET = Float64Array.of(0, 1);
const SLOPE = Float64Array.of(1, -1);

/**
 * The right-hand side of the fixed point at every node, into `image`; with the share of each cell in its slope to the
 * boundary's own logarithm, and the rest of that slope, where Newton's method wants them.
 */
function fillImage(tables: Collocation, rate: number, carryYield: number, vol: number, hasSlopes: boolean): void {
  const { nodes, abscissae, cellH, cellWeight, yieldFactor, upper, upperExponent, lowerExponent } = tables;
  const { tau, deviation, logBoundary, image, cellDeviation, cellSlope, ownSlope } = tables;
  const carry = rate - carryYield;
  const perDeviation = 2 / (vol * vol);
  for (let i = 0, cell = 0; i < nodes; i++) {
    let k1 = 0;
    let k2 = 0;
    let k3 = 0;
    for (let k = 0; k < abscissae; k++, cell++) {
      const d1 = upper[cell]!;
      const bell = upperExponent[cell]!;
      const weight = cellWeight[cell]!;
      const weighted = weight * yieldFactor[cell]!;
      const isUp = Number(d1 >= 0);
      k3 += weight * lowerExponent[cell]!;
      k2 += weighted * bell;
      k1 += weighted * cellH[cell]! * (OFFSET[isUp]! + SLOPE[isUp]! * bell * scaledTail(Math.abs(d1)));
    }
    const t = tau[i]!;
    const s = deviation[i]!;
    const y = logBoundary[i]!;
    const d1 = (y + carry * t) / s + 0.5 * s;
    const d2 = d1 - s;
    const bell = exp(-0.5 * d1 * d1);
    const tail = bell * scaledTail(Math.abs(d1));
    const spread = perDeviation * s * INV_SQRT_2PI;
    const lower = exp(-0.5 * d2 * d2) * INV_SQRT_2PI;
    const density = bell * INV_SQRT_2PI;
    const above = lower / s + rate * spread * k3;
    const below = density / s + (d1 < 0 ? tail : 1 - tail) + carryYield * (2 * t * k1 + spread * k2);
    image[i] = log(above / below) - carry * t;
    if (!hasSlopes) continue;
    ownSlope[i] = (-d2 * lower) / (s * s * above) - ((density / s) * (1 - d1 / s)) / below;
    const perCell = perDeviation * INV_SQRT_2PI;
    const onStrike = (-rate * perCell) / above;
    const onSpot = (carryYield * perCell) / below;
    for (let k = 0, c = i * abscissae; k < abscissae; k++, c++) {
      const x = cellH[c]!;
      const u = upper[c]!;
      cellSlope[c] =
        (cellWeight[c]! / x) *
        (onStrike * lowerExponent[c]! * (u - cellDeviation[c]!) -
          onSpot * yieldFactor[c]! * upperExponent[c]! * (s * x - u));
    }
  }
}

/** Matrix and right-hand side of a step of Newton's method on all nodes at once: (1 − J) move = image − y. */
function fillSystem(tables: Collocation, limit: number): void {
  const { nodes, abscissae, toCell, cellRoot, logBoundary, image, cellSlope, ownSlope, matrix, move } = tables;
  for (let i = 0, cell = 0; i < nodes; i++) {
    const row = i * nodes;
    matrix.fill(0, row, row + nodes);
    let own = ownSlope[i]!;
    for (let k = 0; k < abscissae; k++, cell++) {
      const slope = cellSlope[cell]!;
      own += slope;
      const root = cellRoot[cell]!;
      if (root <= LEAST_ROOT) continue;
      const share = slope / root;
      for (let j = 0, at = cell * nodes; j < nodes; j++, at++) matrix[row + j]! += share * toCell[at]!;
    }
    for (let j = 0; j < nodes; j++) matrix[row + j]! *= limit - logBoundary[j]!;
    matrix[row + i]! += 1 - own;
    move[i] = image[i]! - logBoundary[i]!;
  }
}

/** Solves a system in place, by elimination with pivots of a column. */
function eliminate(matrix: Float64Array, side: Float64Array, count: number): void {
  for (let c = 0; c < count; c++) {
    let pivot = c;
    for (let i = c + 1; i < count; i++) {
      if (Math.abs(matrix[i * count + c]!) > Math.abs(matrix[pivot * count + c]!)) pivot = i;
    }
    for (let j = c; pivot !== c && j < count; j++) {
      [matrix[c * count + j], matrix[pivot * count + j]] = [matrix[pivot * count + j]!, matrix[c * count + j]!];
    }
    [side[c], side[pivot]] = [side[pivot]!, side[c]!];
    for (let i = c + 1; i < count; i++) {
      const factor = matrix[i * count + c]! / matrix[c * count + c]!;
      if (factor === 0) continue;
      for (let j = c; j < count; j++) matrix[i * count + j]! -= factor * matrix[c * count + j]!;
      side[i]! -= factor * side[c]!;
    }
  }
  for (let i = count - 1; i >= 0; i--) {
    let sum = side[i]!;
    for (let j = i + 1; j < count; j++) sum -= matrix[i * count + j]! * side[j]!;
    side[i] = sum / matrix[i * count + i]!;
  }
}
