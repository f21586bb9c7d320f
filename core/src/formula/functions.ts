import { rankOf, zScoreOf } from '../realized';

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
  of: (values: Float64Array) => number;
}

/** `if(condition, then, else)`. */
interface ChoiceFunction {
  kind: 'choice';
  title: string;
}

export type FormulaFunction = ValueFunction | SeriesFunction | ChoiceFunction;

const held = (values: Float64Array) => values.filter(Number.isFinite);
const mean = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0) / values.length;

function deviation(values: Float64Array): number {
  const finite = held(values);
  if (finite.length < 2) return NaN;
  const middle = mean(finite);
  return Math.sqrt(finite.reduce((sum, value) => sum + (value - middle) ** 2, 0) / (finite.length - 1));
}

const extreme = (pick: (...values: number[]) => number) => (values: Float64Array) => {
  const finite = held(values);
  return finite.length > 0 ? pick(...finite) : NaN;
};

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
    of: (values) => rankOf(values, values.length)?.rank ?? NaN,
  },
  pct: {
    kind: 'series',
    least: 2,
    unit: 'plain',
    more: 0,
    title: 'share of the n sessions before now that were lower, 0 to 1',
    of: (values) => rankOf(values, values.length)?.percentile ?? NaN,
  },
  z: {
    kind: 'series',
    least: 2,
    unit: 'plain',
    more: 0,
    title: 'deviations from the mean of n sessions',
    of: (values) => zScoreOf(values, values.length),
  },
  avg: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 0,
    title: 'mean of n sessions',
    of: (values) => mean(held(values)),
  },
  sd: { kind: 'series', least: 2, unit: 'same', more: 0, title: 'sample deviation of n sessions', of: deviation },
  low: { kind: 'series', least: 1, unit: 'same', more: 0, title: 'lowest of n sessions', of: extreme(Math.min) },
  high: { kind: 'series', least: 1, unit: 'same', more: 0, title: 'highest of n sessions', of: extreme(Math.max) },
  change: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 1,
    title: 'now less n sessions ago',
    of: (values) => values[values.length - 1]! - values[0]!,
  },
  ago: {
    kind: 'series',
    least: 1,
    unit: 'same',
    more: 1,
    title: 'what it was n sessions ago',
    of: (values) => values[0]!,
  },
};
