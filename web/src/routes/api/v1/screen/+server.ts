import { unitWords, type CheckedFormula } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import * as api from '$lib/api/screens/endpoints';
import { csvAnswer } from '$lib/server/api';
import { held } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { screen, type ScreenOrder } from '$lib/server/market';
import { readFormulas, readOrder } from './formulas';

type Request = z.infer<typeof schemas.ScreenRequest>;

interface Asked {
  columns: CheckedFormula[];
  filters: CheckedFormula[];
  series: CheckedFormula[];
  order: ScreenOrder | undefined;
}

async function answer(
  { asof, sessions, symbols, kinds, families, from, count }: Omit<Request, 'columns' | 'filters' | 'series' | 'sort'>,
  { columns, filters, series, order }: Asked,
) {
  const { looked, left, removed, rows } = await screen(held(), {
    moment: asof ? new Date(asof) : undefined,
    ...{ columns, filters, series, sessions, order, from, count },
    symbols,
    isWanted: ({ kind, family }) =>
      (kinds.length === 0 || kinds.includes(kind)) && (families.length === 0 || families.includes(family ?? '')),
  });
  return {
    columns: columns.map(({ source, unit, kind }) => ({ formula: source, unit: unitWords(unit), kind })),
    filters: filters.map(({ source }, i) => ({ formula: source, removed: removed[i]! })),
    ...{ looked, left, rows },
  };
}

export const POST = handle(api.screen, async ({ body }) => {
  const { columns, filters, series, sort, ...others } = body;
  return answer(others, {
    ...readFormulas({ columns, filters, series }),
    order: sort && readOrder(sort.by, sort.descending),
  });
});

export const GET = handle(api.screenTable, async ({ query }) => {
  const found = await answer(
    { asof: query.asof, sessions: 1, kinds: query.kind, families: query.family, from: 0, count: query.count },
    {
      ...readFormulas({ columns: query.column, filters: query.filter }),
      order: query.sort === undefined ? undefined : readOrder(query.sort, query.order === 'falling'),
    },
  );
  if (query.format !== 'csv') return found;
  const heads = ['symbol', 'name', 'kind', 'asof', ...query.column];
  const rows = found.rows.map(({ symbol, name, kind, asof, columns }) => ({
    ...{ symbol, name, kind, asof },
    ...Object.fromEntries(query.column.map((formula, i) => [formula, columns[i]])),
  }));
  return csvAnswer('screen', heads, rows);
});
