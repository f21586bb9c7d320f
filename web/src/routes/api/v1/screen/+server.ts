import { FormulaError, unitWords, type CheckedFormula } from '@umwelt/core';
import { ApiError, endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { screen, screenFormula } from '$lib/server/market';

/** Reads all formulas of a list, and tells of every one that makes no sense. */
function readAll(sources: readonly string[], kind: 'column' | 'filter', errors: { path: string; message: string }[]) {
  return sources.flatMap((source, i): CheckedFormula[] => {
    try {
      return [screenFormula(source, kind)];
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error;
      errors.push({ path: `${kind}s.${i}`, message: `at character ${error.from + 1}: ${error.message}` });
      return [];
    }
  });
}

export const POST = endpoint(async (event) => {
  const { asof, ...sources } = await readBody(event, schemas.ScreenRequest);
  const errors: { path: string; message: string }[] = [];
  const columns = readAll(sources.columns, 'column', errors);
  const filters = readAll(sources.filters, 'filter', errors);
  const [first] = errors;
  if (first) throw new ApiError(400, 'Invalid input', `${first.path}: ${first.message}`, { errors });
  const rows = await screen(database(), { moment: asof ? new Date(asof) : undefined, columns, filters });
  return {
    columns: columns.map(({ source, unit, kind }) => ({ formula: source, unit: unitWords(unit), kind })),
    filters: filters.map(({ source }, i) => ({
      formula: source,
      removed: rows.filter((row) => row.filters[i] !== true).length,
    })),
    left: rows.filter((row) => row.filters.every((isIn) => isIn === true)).length,
    rows,
  };
});
