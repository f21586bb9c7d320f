import { unitWords } from '@umwelt/core';
import { endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { screen } from '$lib/server/market';
import { readFormulas } from './formulas';

export const POST = endpoint(async (event) => {
  const { asof, sessions, ...sources } = await readBody(event, schemas.ScreenRequest);
  const { columns, filters, series } = readFormulas(sources);
  const rows = await screen(database(), {
    moment: asof ? new Date(asof) : undefined,
    columns,
    filters,
    series,
    sessions,
  });
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
