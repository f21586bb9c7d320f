import { expiryName } from '@umwelt/core';
import { schemas } from '$lib/api';
import * as api from '$lib/api/structures/endpoints';
import { csvAnswer, headsOf } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { listStructures } from '$lib/server/market';
import { keepAll } from './keep';

export const GET = handle(api.listStructures, async ({ query }) => {
  const { asof, format } = query;
  const structures = await listStructures(database(), asof ? new Date(asof) : undefined);
  if (format !== 'csv') return { structures };
  const rows = structures.map(({ legs, now, ...row }) => ({
    ...row,
    legs: legs
      .map(
        (leg) =>
          `${leg.quantity > 0 ? '+' : ''}${leg.quantity} ${expiryName(leg)} ${leg.strike} ${leg.side}${leg.symbol ? ` of ${leg.symbol}` : ''}`,
      )
      .join('; '),
    ...Object.fromEntries(Object.entries(now ?? {}).map(([name, value]) => [`now_${name}`, value])),
  }));
  const heads = rows[0] ? Object.keys(rows[0]) : headsOf(schemas.StructuresResponse.shape.structures);
  return csvAnswer('structures', heads, rows);
});

export const POST = handle(api.keepStructure, async ({ body }) => {
  const { asof, ...structure } = body;
  return keepAll([structure], asof, () => 'legs');
});
