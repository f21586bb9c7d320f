import { orNull, checkFormula, FormulaError, formulaSeries, type CheckedFormula } from '@umwelt/core';
import { formulaOf, USUAL_COLUMNS, measureNamed } from '$lib/columns';
import type { HeldColumns } from './held';
import { isoDay, isoMoment } from './days';
import type { HeldView } from './held-view';
import type { Underlying } from './terms';

/** How rows are ordered: by the symbol, or by the value of a formula; what has none comes last. */
export interface ScreenOrder {
  by: CheckedFormula | 'symbol';
  isDescending: boolean;
}

/** Formulas over all underlyings at a moment: columns are computed, filters leave underlyings out. */
export interface ScreenQuery {
  moment?: Date | undefined;
  columns: readonly CheckedFormula[];
  filters: readonly CheckedFormula[];
  /** Computed for each of the last sessions. */
  series?: readonly CheckedFormula[];
  sessions?: number;
  /** Which underlyings are looked at; all unless given. */
  symbols?: readonly string[] | undefined;
  isWanted?: (underlying: Underlying) => boolean;
  order?: ScreenOrder | undefined;
  /** Rows that are given back: from one on, and how many. */
  from?: number;
  count?: number;
}

export interface ScreenRow {
  symbol: string;
  name: string;
  kind: Underlying['kind'];
  /** The moment that it is measured at; null where none is held. */
  asof: string | null;
  frontExpiry: string | null;
  /** The next announcement that concerns it. */
  event: { start: string; title: string } | null;
  /** By column; null where it cannot be known. */
  columns: (number | null)[];
  /** By series and session. */
  series: (number | null)[][];
}

export interface ScreenResult {
  /** Underlyings that were looked at, and how many of them all filters leave. */
  looked: number;
  left: number;
  /** How many each filter alone leaves out; what cannot be known does not pass. */
  removed: number[];
  rows: ScreenRow[];
}

/**
 * Reads a formula of a screen.
 *
 * @throws FormulaError with the characters that are wrong
 */
export function screenFormula(source: string, kind: 'column' | 'filter'): CheckedFormula {
  const checked = checkFormula(source, measureNamed);
  if (kind === 'filter' && checked.kind === 'number')
    throw new FormulaError('a filter is a condition, such as iv30 > 20%', 0, source.length);
  return checked;
}

/** Fewer underlyings than this are read without the others. */
const FEW = 200;

/**
 * Works formulas out for every underlying at its last moment at or before another. Measures are those of the sessions' last
 * moments; historical vols those of the bars that were over.
 */
export async function screen(
  held: HeldColumns,
  { moment, columns, filters, series = [], sessions = 1, symbols, isWanted, order, from = 0, count }: ScreenQuery,
): Promise<ScreenResult> {
  const formulas = [...columns, ...filters, ...series, ...(order && order.by !== 'symbol' ? [order.by] : [])];
  const reach = Math.max(0, ...formulas.map((formula) => formula.sessions)) + (series.length > 0 ? sessions : 1);
  const names = ['event', 'front', ...formulas.flatMap((formula) => formula.names)];
  // Few are read apart; of many all are, whose values the next screen of the same moment needs as well.
  const named = symbols && new Set(symbols);
  const view = await held.read(new Set(names), reach, {
    moment,
    isWanted: named && named.size < FEW ? ({ symbol }) => named.has(symbol) : undefined,
  });
  const all = view.underlyings;
  const valuesOf = (formula: CheckedFormula, length = 1) =>
    view.remember(`= ${length} ${formula.source}`, () => formulaSeries(formula, length, view.series, all.length));
  const passing = filters.map((filter) => valuesOf(filter));
  const looked = [...all.keys()].filter(
    (row) => (named?.has(all[row]!.symbol) ?? view.isListed(row)) && (isWanted?.(all[row]!) ?? true),
  );
  const left = looked.filter((row) => passing.every((values) => values[row] === 1));
  const removed = passing.map((values) => looked.filter((row) => values[row] !== 1).length);
  const shown = ordered(left, all, order, valuesOf).slice(from, count === undefined ? undefined : from + count);
  const worked = columns.map((column) => valuesOf(column));
  const lines = series.map((one) => valuesOf(one, sessions));
  return {
    looked: looked.length,
    left: left.length,
    removed,
    rows: shown.map((row) => ({
      ...factsOf(view, row),
      columns: valuesAt(worked, row),
      series: lines.map((values) => Array.from(values.subarray(row * sessions, (row + 1) * sessions), orNull)),
    })),
  };
}

/** Values of a row by column. Written out: there may be hundreds of thousands of them. */
function valuesAt(columns: readonly Float64Array[], row: number): (number | null)[] {
  const out = new Array<number | null>(columns.length);
  for (let c = 0; c < columns.length; c++) {
    const value = columns[c]![row]!;
    out[c] = Number.isNaN(value) ? null : value;
  }
  return out;
}

function ordered(
  rows: readonly number[],
  all: readonly Underlying[],
  order: ScreenOrder | undefined,
  valuesOf: (formula: CheckedFormula) => Float64Array,
): number[] {
  if (!order || order.by === 'symbol') {
    const rising = rows.toSorted((a, b) => (all[a]!.symbol < all[b]!.symbol ? -1 : 1));
    return order?.isDescending ? rising.reverse() : rising;
  }
  const values = valuesOf(order.by);
  const sign = order.isDescending ? -1 : 1;
  const isMissing = (row: number) => (Number.isNaN(values[row]!) ? 1 : 0);
  return rows.toSorted((a, b) => isMissing(a) - isMissing(b) || sign * (values[a]! - values[b]!) || a - b);
}

/** Reads what the usual columns need, so that the first who asks need not wait for it. */
export async function prepareUniverse(held: HeldColumns): Promise<void> {
  const columns = USUAL_COLUMNS.map((key) => screenFormula(formulaOf(key)!, 'column'));
  await screen(held, { columns, filters: [], count: 0 });
}

function factsOf(view: HeldView, row: number): Omit<ScreenRow, 'columns' | 'series'> {
  const { symbol, name, kind } = view.underlyings[row]!;
  const instant = view.instant(row);
  const front = view.frontDay(row);
  const event = view.nextAnnouncement(row);
  return {
    ...{ symbol, name, kind },
    asof: Number.isNaN(instant) ? null : isoMoment(instant),
    frontExpiry: Number.isNaN(front) ? null : isoDay(front),
    event: event && { start: isoMoment(event.start), title: event.title },
  };
}
