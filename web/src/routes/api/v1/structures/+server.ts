import { expiryName } from '@umwelt/core';
import { schemas } from '$lib/api';
import * as api from '$lib/api/structures/endpoints';
import { ApiError, csvAnswer, headsOf, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { findUnderlying, keepStructure, listStructures } from '$lib/server/market';

export const GET = handle(api.listStructures, async ({ query }) => {
  const { asof, format } = query;
  const structures = await listStructures(database(), asof ? new Date(asof) : undefined);
  if (format !== 'csv') return { structures };
  const rows = structures.map(({ legs, now, ...row }) => ({
    ...row,
    legs: legs
      .map((leg) => `${leg.quantity > 0 ? '+' : ''}${leg.quantity} ${expiryName(leg)} ${leg.strike} ${leg.side}`)
      .join('; '),
    ...Object.fromEntries(Object.entries(now ?? {}).map(([name, value]) => [`now_${name}`, value])),
  }));
  const heads = rows[0] ? Object.keys(rows[0]) : headsOf(schemas.StructuresResponse.shape.structures);
  return csvAnswer('structures', heads, rows);
});

export const POST = handle(api.keepStructure, async ({ body }) => {
  const { asof, ...asked } = body;
  const legs = asked.legs.map((leg) => ({ ...leg, settlement: leg.settlement ?? null }));
  const given = { ...asked, legs };
  if (!(await findUnderlying(database(), given.symbol))) throw notFound(`there is no underlying ${given.symbol}`);
  const missing = await keepStructure(database(), given, asof ? new Date(asof) : undefined);
  if (missing !== null) {
    throw new ApiError(422, 'Cannot be priced', missing, { errors: [{ path: 'legs', message: missing }] });
  }
  return { structures: await listStructures(database(), asof ? new Date(asof) : undefined) };
});
