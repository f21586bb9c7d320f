import { FormulaError, type CheckedFormula } from '@umwelt/core';
import { ApiError } from '$lib/server/api';
import { screenFormula, type ScreenOrder } from '$lib/server/market';

function readAll(
  sources: readonly string[],
  kind: 'column' | 'filter',
  list: string,
  errors: { path: string; message: string }[],
) {
  return sources.flatMap((source, i): CheckedFormula[] => {
    try {
      return [screenFormula(source, kind)];
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error;
      errors.push({ path: `${list}.${i}`, message: `at character ${error.from + 1}: ${error.message}` });
      return [];
    }
  });
}

/**
 * Reads the formulas of a screen.
 *
 * @throws ApiError with every one that makes no sense, and where
 */
export function readFormulas(sources: {
  columns: readonly string[];
  filters: readonly string[];
  series?: readonly string[];
}) {
  const errors: { path: string; message: string }[] = [];
  const columns = readAll(sources.columns, 'column', 'columns', errors);
  const filters = readAll(sources.filters, 'filter', 'filters', errors);
  const series = readAll(sources.series ?? [], 'column', 'series', errors);
  const [first] = errors;
  if (first) throw new ApiError(400, 'Invalid input', `${first.path}: ${first.message}`, { errors });
  return { columns, filters, series };
}

/**
 * Reads what rows are ordered by.
 *
 * @throws ApiError where that is neither a formula nor the symbol
 */
export function readOrder(by: string, isDescending: boolean): ScreenOrder {
  if (by === 'symbol') return { by, isDescending };
  const errors: { path: string; message: string }[] = [];
  const [formula] = readAll([by], 'column', 'sort', errors);
  if (!formula) throw new ApiError(400, 'Invalid input', errors[0]!.message, { errors });
  return { by: formula, isDescending };
}
