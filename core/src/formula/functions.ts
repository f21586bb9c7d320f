import { momentsOf, zScoreOf } from '../realized';

/** Functions of numbers, value by value. `same` gives back the unit of what goes in, and all that goes in must have it. */
interface ValueFunction {
  kind: 'values';
  /** How many arguments, at least and at most. */
  least: number;
  most: number;
  unit: 'same' | 'plain' | 'root';
  title: string;
  of: (...values: number[]) => number;
}

/** Functions of a series and a number of sessions: `rank(iv30, 120)`. They read the last n values, the last one included. */
interface SeriesFunction {
  kind: 'series';
  /** Fewest sessions that mean anything. */
  least: number;
  unit: 'same' | 'plain';
  title: string;
  /** Sessions before the last n that are read too. */
  more: 0 | 1;
  /** Over the values from one position to before another. */
  of: (values: Float64Array, from: number, to: number) => number;
}

/** `if(condition, then, else)`. */
interface ChoiceFunction {
  kind: 'choice';
  title: string;
}

export type FormulaFunction = ValueFunction | SeriesFunction | ChoiceFunction;

/** The lowest or, with a sign of −1, the highest of the values that exist in a range; NaN without any. */
function extreme(values: Float64Array, from: number, to: number, sign: 1 | -1): number {
  let found = Infinity;
  for (let i = from; i < to; i++) {
    const value = sign * values[i]!;
    if (value < found && value - value === 0) found = value;
  }
  return found === Infinity ? NaN : sign * found;
}

/** The same as `rankOf` says, without where: thousands are asked for at once. */
function rankIn(values: Float64Array, from: number, to: number): number {
  const low = extreme(values, from, to, 1);
  const high = extreme(values, from, to, -1);
  return high > low ? (values[to - 1]! - low) / (high - low) : NaN;
}

function percentileIn(values: Float64Array, from: number, to: number): number {
  const now = values[to - 1]!;
  let held = 0;
  let lower = 0;
  for (let i = from; i < to - 1; i++) {
    const value = values[i]!;
    // Counted without branches: which way each goes is what nobody can foresee.
    held += Number(value - value === 0);
    lower += Number(value < now && value !== -Infinity);
  }
  return now - now === 0 && held > 0 ? lower / held : NaN;
}

function heldIn(values: Float64Array, from: number, to: number): number {
  let held = 0;
  for (let i = from; i < to; i++) held += Number(values[i]! - values[i]! === 0);
  return held;
}

/** All functions by name; conventions of rank, percentile and z-score are those of docs/conventions.md. */
export const FUNCTIONS: Readonly<Record<string, FormulaFunction>> = {
  abs: { kind: 'values', least: 1, most: 1, unit: 'same', title: 'size without its sign', of: Math.abs },
  sqrt: { kind: 'values', least: 1, most: 1, unit: 'root', title: 'square root', of: Math.sqrt },
  ln: { kind: 'values', least: 1, most: 1, unit: 'plain', title: 'natural logarithm of a plain number', of: Math.log },
  exp: { kind: 'values', least: 1, most: 1, unit: 'plain', title: 'e to the power of a plain number', of: Math.exp },
  least: { kind: 'values', least: 2, most: 8, unit: 'same', title: 'the least of several', of: Math.min },
  most: { kind: 'values', least: 2, most: 8, unit: 'same', title: 'the most of several', of: Math.max },
  if: { kind: 'choice', title: 'if(condition, then, else)' },
  rank: {
    kind: 'series',
    least: 2,
    unit: 'plain',
    more: 0,
    title: '(now − low)/(high − low) over n sessions, 0 to 1',
    of: rankIn,
  },
  pct: {
    kind: 'series',
    least: 2,
    unit: 'plain',
    more: 0,
    title: 'share of the n sessions before now that were lower, 0 to 1',
    of: percentileIn,
  },
  z: {
    kind: 'series',
    least: 2,
    unit: 'plain',
    more: 0,
    title: 'deviations from the mean of n sessions',
    of: (values, from, to) => zScoreOf(values, to - from, to),
  },
  avg: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 0,
    title: 'mean of n sessions',
    of: (values, from, to) => momentsOf(values, from, to).mean,
  },
  sd: {
    kind: 'series',
    least: 2,
    unit: 'same',
    more: 0,
    title: 'sample deviation of n sessions',
    of: (values, from, to) => momentsOf(values, from, to).deviation,
  },
  low: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 0,
    title: 'lowest of n sessions',
    of: (values, from, to) => extreme(values, from, to, 1),
  },
  high: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 0,
    title: 'highest of n sessions',
    of: (values, from, to) => extreme(values, from, to, -1),
  },
  held: {
    kind: 'series',
    least: 1,
    unit: 'plain',
    more: 0,
    title: 'how many of n sessions are known',
    of: heldIn,
  },
  change: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 1,
    title: 'now less n sessions ago',
    of: (values, from, to) => values[to - 1]! - values[from]!,
  },
  ago: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 1,
    title: 'what it was n sessions ago',
    of: (values, from) => values[from]!,
  },
};
