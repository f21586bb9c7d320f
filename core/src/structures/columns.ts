/** Greeks along a price, total along the dynamics of a scenario: the vol moves with price and time as it says. */
export const FIRST_GREEKS = ['delta', 'gamma', 'theta', 'vega', 'rho'] as const;
export const SECOND_GREEKS = ['vanna', 'volga', 'charm', 'veta'] as const;
export const MOVED_GREEKS = [...FIRST_GREEKS, ...SECOND_GREEKS] as const;
export type MovedGreek = (typeof MOVED_GREEKS)[number];

/** What a contract or a structure is worth and how that reacts, in the units of docs/conventions.md. */
export type MovedValues = Record<'value' | MovedGreek, number>;

/** {@link MovedValues} along a price, an array each. */
export type MovedColumns = Record<'value' | MovedGreek, Float64Array>;

/** How much is asked for: values alone, with the first Greeks and gamma, or with those that tell how Greeks move. */
export type Depth = 'values' | 'first' | 'second';

const NAMES = ['value', ...MOVED_GREEKS] as const;

/** The columns that are filled at a depth. */
export function namesAt(depth: Depth): readonly ('value' | MovedGreek)[] {
  if (depth === 'second') return NAMES;
  return depth === 'first' ? ['value', ...FIRST_GREEKS] : ['value'];
}

/** Columns of nothing. */
export function makeColumns(length: number): MovedColumns {
  return Object.fromEntries(NAMES.map((name) => [name, new Float64Array(length)])) as MovedColumns;
}

/** Adds so many of what other columns hold. */
export function addColumns(sum: MovedColumns, columns: MovedColumns, quantity: number, depth: Depth): void {
  for (const name of namesAt(depth)) {
    const into = sum[name];
    const from = columns[name];
    for (let i = 0; i < into.length; i++) into[i]! += quantity * from[i]!;
  }
}

/** What columns hold at a place. */
export function valuesAt(columns: MovedColumns, at: number): MovedValues {
  return Object.fromEntries(NAMES.map((name) => [name, columns[name][at]!])) as MovedValues;
}
