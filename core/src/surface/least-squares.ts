/** How far a search goes. */
export interface SearchLimits {
  readonly steps: number;
  /** Puts parameters back to where they make sense, in place. */
  readonly project: (x: Float64Array) => void;
  /** Writes the slopes of the residuals, a column for each parameter; without it they are taken by differences. */
  readonly slopesAt?: (x: Float64Array, slopes: readonly Float64Array[]) => void;
}

const DIFFERENCE = 1e-6;
/** A search ends when a step gains less than this share. */
const LEAST_GAIN = 1e-7;
const TRIALS = 8;

/**
 * Least squares of few parameters by Levenberg and Marquardt; each step is projected.
 *
 * @param residuals writes what is to be small
 * @param x the start, and in the end the result
 * @param count of the residuals
 * @returns half the sum of their squares
 */
export function leastSquares(
  residuals: (x: Float64Array, out: Float64Array) => void,
  x: Float64Array,
  count: number,
  { steps, project, slopesAt }: SearchLimits,
): number {
  const size = x.length;
  const here = new Float64Array(count);
  const there = new Float64Array(count);
  const heard = new Float64Array(count);
  const slopes = Array.from({ length: size }, () => new Float64Array(count));
  const normal = new Float64Array(size * size);
  const gradient = new Float64Array(size);
  const matrix = new Float64Array(size * size);
  const side = new Float64Array(size);
  const next = new Float64Array(size);
  project(x);
  residuals(x, here);
  let loss = halfSquares(here);
  let damping = 1e-3;
  for (let step = 0; step < steps; step++) {
    if (slopesAt) slopesAt(x, slopes);
    else byDifferences(residuals, x, here, there, slopes);
    const rows = keepHeard(here, slopes, heard);
    for (let j = 0; j < size; j++) {
      gradient[j] = product(slopes[j]!, heard, rows);
      for (let l = 0; l <= j; l++) normal[j * size + l] = normal[l * size + j] = product(slopes[j]!, slopes[l]!, rows);
    }
    let isBetter = false;
    for (let trial = 0; trial < TRIALS && !isBetter; trial++) {
      matrix.set(normal);
      for (let j = 0; j < size; j++) {
        matrix[j * size + j]! *= 1 + damping;
        side[j] = -gradient[j]!;
      }
      solveInPlace(matrix, side, size);
      for (let j = 0; j < size; j++) next[j] = x[j]! + side[j]!;
      project(next);
      residuals(next, there);
      const reached = halfSquares(there);
      if (reached < loss) {
        const gain = 1 - reached / loss;
        x.set(next);
        here.set(there);
        loss = reached;
        damping = Math.max(0.2 * damping, 1e-12);
        if (gain < LEAST_GAIN) return loss;
        isBetter = true;
      } else damping *= 6;
    }
    if (!isBetter) return loss;
  }
  return loss;
}

function byDifferences(
  residuals: (x: Float64Array, out: Float64Array) => void,
  x: Float64Array,
  here: Float64Array,
  there: Float64Array,
  slopes: readonly Float64Array[],
): void {
  for (let j = 0; j < x.length; j++) {
    const old = x[j]!;
    const move = DIFFERENCE * Math.max(Math.abs(old), 1e-3);
    x[j] = old + move;
    residuals(x, there);
    x[j] = old;
    const slope = slopes[j]!;
    for (let i = 0; i < here.length; i++) slope[i] = (there[i]! - here[i]!) / move;
  }
}

/**
 * Moves the residuals that say anything to the front of the columns: constraints that are kept are nothing, and so are their slopes.
 *
 * @returns how many there are
 */
function keepHeard(here: Float64Array, slopes: readonly Float64Array[], heard: Float64Array): number {
  let rows = 0;
  for (let i = 0; i < here.length; i++) {
    let isHeard = here[i] !== 0;
    for (let j = 0; j < slopes.length && !isHeard; j++) isHeard = slopes[j]![i] !== 0;
    if (!isHeard) continue;
    heard[rows] = here[i]!;
    for (let j = 0; j < slopes.length; j++) slopes[j]![rows] = slopes[j]![i]!;
    rows++;
  }
  return rows;
}

function product(a: Float64Array, b: Float64Array, count: number): number {
  let sum = 0;
  for (let i = 0; i < count; i++) sum += a[i]! * b[i]!;
  return sum;
}

const halfSquares = (values: Float64Array): number => 0.5 * product(values, values, values.length);

/** Keeps a matrix that says nothing of a parameter from dividing by zero. */
const TINY = 1e-300;

/** Solves a positive definite system by Cholesky's factor without roots; the solution replaces the right side. */
function solveInPlace(matrix: Float64Array, side: Float64Array, size: number): void {
  for (let j = 0; j < size; j++) {
    for (let l = 0; l < j; l++) {
      const factor = matrix[j * size + l]! / (matrix[l * size + l]! + TINY);
      for (let i = l; i < size; i++) matrix[j * size + i]! -= factor * matrix[l * size + i]!;
      side[j]! -= factor * side[l]!;
    }
  }
  for (let j = size - 1; j >= 0; j--) {
    let sum = side[j]!;
    for (let i = j + 1; i < size; i++) sum -= matrix[j * size + i]! * side[i]!;
    side[j] = sum / (matrix[j * size + j]! + TINY);
  }
}
