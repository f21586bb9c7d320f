import { sessionsOf, type CheckedFormula } from './check';
import { FUNCTIONS } from './functions';
import type { BinaryOperator, Formula } from './parse';

/**
 * Values of a measure by session.
 *
 * @returns the last so many up to the session in view, NaN for what there is not
 */
export type SeriesOf = (name: string, sessions: number) => Float64Array;

/** Truths are 1 and 0, and NaN where it cannot be known. */
const OPERATORS: Record<BinaryOperator, (a: number, b: number) => number> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => a / b,
  '^': (a, b) => a ** b,
  '<': compared((a, b) => a < b),
  '<=': compared((a, b) => a <= b),
  '>': compared((a, b) => a > b),
  '>=': compared((a, b) => a >= b),
  '=': compared((a, b) => a === b),
  '!=': compared((a, b) => a !== b),
  // What one side decides does not hang on the other (S. Kleene's strong logic of three values).
  and: (a, b) => (a === 0 || b === 0 ? 0 : a * b),
  or: (a, b) => (a === 1 || b === 1 ? 1 : a + b),
};

function compared(test: (a: number, b: number) => boolean): (a: number, b: number) => number {
  return (a, b) => (Number.isNaN(a) || Number.isNaN(b) ? NaN : test(a, b) ? 1 : 0);
}

/** A formula over the last sessions. */
function valuesOf(formula: Formula, sessions: number, series: SeriesOf): Float64Array {
  switch (formula.kind) {
    case 'number':
      return new Float64Array(sessions).fill(formula.value);
    case 'name':
      return series(formula.name, sessions);
    case 'unary': {
      const values = valuesOf(formula.of, sessions, series);
      return values.map((value) => (formula.operator === '-' ? -value : 1 - value));
    }
    case 'binary': {
      const left = valuesOf(formula.left, sessions, series);
      const right = valuesOf(formula.right, sessions, series);
      const operator = OPERATORS[formula.operator];
      return left.map((value, i) => operator(value, right[i]!));
    }
    case 'call': {
      const found = FUNCTIONS[formula.name]!;
      if (found.kind === 'series') {
        const length = sessionsOf(formula.args[1]!, found.least) + found.more;
        const values = valuesOf(formula.args[0]!, sessions + length - 1, series);
        return Float64Array.from({ length: sessions }, (_, i) => found.of(values.subarray(i, i + length)));
      }
      const args = formula.args.map((arg) => valuesOf(arg, sessions, series));
      if (found.kind === 'choice')
        return args[0]!.map((is, i) => (is === 1 ? args[1]![i]! : is === 0 ? args[2]![i]! : NaN));
      return args[0]!.map((_, i) => found.of(...args.map((values) => values[i]!)));
    }
  }
}

/**
 * A formula over the last sessions up to the one in view, in the same way as its last value.
 *
 * @param sessions at least 1
 */
export function formulaSeries({ formula }: CheckedFormula, sessions: number, series: SeriesOf): Float64Array {
  return valuesOf(formula, sessions, series).map((value) => (Number.isFinite(value) ? value : NaN));
}

/** The value of a formula on the session in view: a number, or for a condition 1 and 0; NaN where it cannot be known. */
export function evaluateFormula(checked: CheckedFormula, series: SeriesOf): number {
  // What is divided by nothing is no number that could be ranked or filtered by.
  return formulaSeries(checked, 1, series)[0]!;
}
