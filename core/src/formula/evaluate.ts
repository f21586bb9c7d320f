import { sessionsOf, type CheckedFormula } from './check';
import { FUNCTIONS } from './functions';
import type { BinaryOperator, Formula } from './parse';

/**
 * Values of a measure by session: of one underlying, or of many in rows.
 *
 * @returns the last so many of each up to the session in view, NaN for what there is not; row after row
 */
export type SeriesOf = (name: string, sessions: number) => Float64Array;

const isUnknown = (a: number, b: number) => a !== a || b !== b;

/**
 * Two columns, value by value. Truths are 1 and 0, and NaN where it cannot be known. A loop for each operator: called through a
 * function, it would take many times as long.
 */
function combined(operator: BinaryOperator, a: Float64Array, b: Float64Array): Float64Array {
  const n = a.length;
  const out = new Float64Array(n);
  switch (operator) {
    case '+':
      for (let i = 0; i < n; i++) out[i] = a[i]! + b[i]!;
      break;
    case '-':
      for (let i = 0; i < n; i++) out[i] = a[i]! - b[i]!;
      break;
    case '*':
      for (let i = 0; i < n; i++) out[i] = a[i]! * b[i]!;
      break;
    case '/':
      for (let i = 0; i < n; i++) out[i] = a[i]! / b[i]!;
      break;
    case '^':
      for (let i = 0; i < n; i++) out[i] = a[i]! ** b[i]!;
      break;
    case '<':
      for (let i = 0; i < n; i++) out[i] = isUnknown(a[i]!, b[i]!) ? NaN : Number(a[i]! < b[i]!);
      break;
    case '<=':
      for (let i = 0; i < n; i++) out[i] = isUnknown(a[i]!, b[i]!) ? NaN : Number(a[i]! <= b[i]!);
      break;
    case '>':
      for (let i = 0; i < n; i++) out[i] = isUnknown(a[i]!, b[i]!) ? NaN : Number(a[i]! > b[i]!);
      break;
    case '>=':
      for (let i = 0; i < n; i++) out[i] = isUnknown(a[i]!, b[i]!) ? NaN : Number(a[i]! >= b[i]!);
      break;
    case '=':
      for (let i = 0; i < n; i++) out[i] = isUnknown(a[i]!, b[i]!) ? NaN : Number(a[i]! === b[i]!);
      break;
    case '!=':
      for (let i = 0; i < n; i++) out[i] = isUnknown(a[i]!, b[i]!) ? NaN : Number(a[i]! !== b[i]!);
      break;
    // What one side decides does not depend on the other (S. Kleene's strong logic of three values).
    case 'and':
      for (let i = 0; i < n; i++) out[i] = a[i] === 0 || b[i] === 0 ? 0 : a[i]! * b[i]!;
      break;
    case 'or':
      for (let i = 0; i < n; i++) out[i] = a[i] === 1 || b[i] === 1 ? 1 : a[i]! + b[i]!;
      break;
  }
  return out;
}

/** How much is computed at once: underlyings in rows, and sessions of each. */
interface Extent {
  rows: number;
  sessions: number;
}

/** A formula over the last sessions, row after row. */
function valuesOf(formula: Formula, { rows, sessions }: Extent, series: SeriesOf): Float64Array {
  switch (formula.kind) {
    case 'number':
      return new Float64Array(rows * sessions).fill(formula.value);
    case 'name':
      return series(formula.name, sessions);
    case 'unary': {
      const values = valuesOf(formula.of, { rows, sessions }, series);
      return values.map((value) => (formula.operator === '-' ? -value : 1 - value));
    }
    case 'binary': {
      const left = valuesOf(formula.left, { rows, sessions }, series);
      const right = valuesOf(formula.right, { rows, sessions }, series);
      return combined(formula.operator, left, right);
    }
    case 'call': {
      const found = FUNCTIONS[formula.name]!;
      if (found.kind === 'series') {
        const length = sessionsOf(formula.args[1]!, found.least) + found.more;
        const width = sessions + length - 1;
        const values = valuesOf(formula.args[0]!, { rows, sessions: width }, series);
        const out = new Float64Array(rows * sessions);
        for (let row = 0; row < rows; row++)
          for (let i = 0; i < sessions; i++) {
            const from = row * width + i;
            out[row * sessions + i] = found.of(values, from, from + length);
          }
        return out;
      }
      const args = formula.args.map((arg) => valuesOf(arg, { rows, sessions }, series));
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
 * @param rows underlyings that the series has, which are computed one beside the other
 * @returns row after row
 */
export function formulaSeries({ formula }: CheckedFormula, sessions: number, series: SeriesOf, rows = 1): Float64Array {
  // What is divided by nothing is no number that could be ranked or filtered by.
  return valuesOf(formula, { rows, sessions }, series).map((value) => (Number.isFinite(value) ? value : NaN));
}

/** The value of a formula on the session in view: a number, or for a condition 1 and 0; NaN where it cannot be known. */
export function evaluateFormula(checked: CheckedFormula, series: SeriesOf): number {
  return formulaSeries(checked, 1, series)[0]!;
}
