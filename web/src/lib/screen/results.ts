import type { z } from 'zod';
import { figures } from '$lib/formats';
import type { schemas } from '$lib/server/api';
import { ask } from '$lib/state/api';
import type { SortColumn } from '$lib/tables';

export type ScreenAnswer = z.infer<typeof schemas.ScreenResponse>;

/** Formulas over all underlyings at a moment; null is the latest. */
export function askScreen(
  asof: string | null,
  columns: readonly string[],
  filters: readonly string[],
  series: readonly string[] = [],
): Promise<ScreenAnswer> {
  const body = JSON.stringify({ ...(asof ? { asof } : {}), columns, filters, series });
  return ask('/screen', { method: 'POST', body });
}

/** A value of a computed column as it is read, by its unit. */
export function screenText(unit: string, kind: 'truth' | 'number', value: number | null): string {
  if (value === null) return figures.NOTHING;
  if (kind === 'truth') return value === 1 ? 'yes' : 'no';
  if (unit === 'vol') return figures.vol(value);
  if (unit === 'count') return figures.count(Math.round(value));
  return figures.fixed(value, 2);
}

/** Computed columns as they are sorted by. */
export function screenOrders(answer: ScreenAnswer | null): SortColumn<{ symbol: string }>[] {
  if (!answer) return [];
  const bySymbol = new Map(answer.rows.map((row) => [row.symbol, row]));
  return answer.columns.map((_, i) => ({
    id: `formula${i}`,
    value: ({ symbol }) => bySymbol.get(symbol)?.columns[i] ?? null,
  }));
}

/** The underlyings that all filters leave. */
export function leftBy({ rows }: ScreenAnswer): ReadonlySet<string> {
  return new Set(rows.filter(({ filters }) => filters.every((isIn) => isIn === true)).map(({ symbol }) => symbol));
}
