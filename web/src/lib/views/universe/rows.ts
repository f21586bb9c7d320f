import { calendarById, dayOf } from '@umwelt/core';
import type { DataTable } from '$lib/tables';
import { FLAGS, type Flag, type ScreenColumn } from '$lib/columns';
import type { ScreenRow } from './results';

const RISING = '|rising';

/** Each of some words once. */
export const eachOnce = (words: readonly string[]): string[] => [...new Set(words)];

/** Rows by their symbol. */
export const bySymbol = <Row extends { symbol: string }>(rows: readonly Row[]): ReadonlyMap<string, Row> =>
  new Map(rows.map((row) => [row.symbol, row]));

/** Families of more than one underlying, by name. */
export function familiesOf(rows: readonly { family: string | null }[]): string[] {
  const counts = new Map<string, number>();
  for (const { family } of rows) if (family) counts.set(family, (counts.get(family) ?? 0) + 1);
  return [...counts]
    .filter(([, count]) => count > 1)
    .map(([family]) => family)
    .sort();
}

/** What the text of an order says. */
export function orderOf(sort: string): { key: string; isRising: boolean } {
  const isRising = sort.endsWith(RISING);
  return { key: isRising ? sort.slice(0, -RISING.length) : sort, isRising };
}

/** The text of the order after a click on a head: falling first for numbers, then rising; words rise first. */
export function nextOrder(sort: string, key: string, isText: boolean): string {
  const current = orderOf(sort);
  const isRising = current.key === key ? !current.isRising : isText;
  return isRising ? `${key}${RISING}` : key;
}

/**
 * The change of a price of a feed that is further on than what is held. Until something of its session is stored, the close
 * before is not known, and neither is the change.
 *
 * @param asof of what is held
 * @param moment of the feed
 */
export function liveChange(
  price: number,
  before: number | null,
  calendar: string | null,
  asof: string,
  moment: string,
): number | null {
  const known = calendarById(calendar);
  const isSameSession = dayOf(known, Date.parse(asof)) === dayOf(known, Date.parse(moment));
  return isSameSession && before !== null ? price / before - 1 : null;
}

/** What stands out of an underlying, by the values of its conditions. */
export function flagsOf(valueOf: (formula: string) => number | null): Flag[] {
  return FLAGS.filter(({ formula }) => valueOf(formula) === 1);
}

/** The columns in view as a file has them; the lines are the history of each underlying. */
export function screenTable(
  rows: readonly ScreenRow[],
  columns: readonly ScreenColumn[],
  valueOf: (row: ScreenRow, formula: string) => number | null,
  familyOf: (symbol: string) => string,
): DataTable {
  const written = columns.filter(({ look }) => look !== 'line');
  const wordOf = (row: ScreenRow, key: string) => {
    if (key === 'kind') return row.kind;
    if (key === 'family') return familyOf(row.symbol);
    return flagsOf((formula) => valueOf(row, formula))
      .map(({ word }) => word)
      .join(', ');
  };
  return {
    columns: [
      { name: 'symbol', type: 'text' },
      { name: 'name', type: 'text' },
      { name: 'asof', type: 'instant' },
      ...written.map(({ key, formula, label, write }) => ({
        ...{ name: key, label, write },
        type: formula === null ? ('text' as const) : ('number' as const),
      })),
    ],
    rows: rows.map((row) => [
      ...[row.symbol, row.name, row.asof],
      ...written.map(({ key, formula }) => (formula === null ? wordOf(row, key) : valueOf(row, formula))),
    ]),
  };
}

/** The address of the API that gives the values of columns as CSV, conditions and order as they are in view. */
export function screenAddress({
  asof,
  columns,
  keep,
  kinds,
  families,
  sort,
}: {
  asof: string | null;
  columns: readonly ScreenColumn[];
  keep: readonly string[];
  kinds: readonly string[];
  families: readonly string[];
  sort: string;
}): string {
  const query = new URLSearchParams({ format: 'csv' });
  if (asof) query.set('asof', asof);
  for (const { formula, look } of columns) if (formula !== null && look !== 'line') query.append('column', formula);
  for (const condition of keep) query.append('filter', condition);
  for (const kind of kinds) query.append('kind', kind);
  for (const family of families) query.append('family', family);
  const { key, isRising } = orderOf(sort);
  // Words are no formulas; the symbol is what rows are ordered by without one.
  if (columns.some((column) => column.key === key && column.formula === key)) query.set('sort', key);
  if (isRising) query.set('order', 'rising');
  return `/api/v1/screen?${query}`;
}
