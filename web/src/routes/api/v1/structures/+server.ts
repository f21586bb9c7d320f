import { expiryName } from '@umwelt/core';
import {
  ApiError,
  creatingEndpoint,
  endpoint,
  listAnswer,
  notFound,
  readBody,
  readQuery,
  schemas,
} from '$lib/server/api';
import { database } from '$lib/server/database';
import { findUnderlying, keepStructure, listStructures } from '$lib/server/market';

export const GET = endpoint(async (event) => {
  const { asof, format } = readQuery(event, schemas.AsofQuery);
  const structures = await listStructures(database(), asof ? new Date(asof) : undefined);
  if (format !== 'csv') return { structures };
  const rows = structures.map(({ legs, now, ...row }) => ({
    ...row,
    legs: legs
      .map((leg) => `${leg.quantity > 0 ? '+' : ''}${leg.quantity} ${expiryName(leg)} ${leg.strike} ${leg.side}`)
      .join('; '),
    ...Object.fromEntries(Object.entries(now ?? {}).map(([name, value]) => [`now_${name}`, value])),
  }));
  return listAnswer(event, 'structures', schemas.StructuresResponse.shape.structures, rows);
});

export const POST = creatingEndpoint(database, async (event) => {
  const { asof, ...asked } = await readBody(event, schemas.StructureRequest);
  const legs = asked.legs.map((leg) => ({ ...leg, settlement: leg.settlement ?? null }));
  const given = { ...asked, legs };
  if (!(await findUnderlying(database(), given.symbol))) throw notFound(`there is no underlying ${given.symbol}`);
  const missing = await keepStructure(database(), given, asof ? new Date(asof) : undefined);
  if (missing !== null) {
    throw new ApiError(422, 'Cannot be priced', missing, { errors: [{ path: 'legs', message: missing }] });
  }
  return { structures: await listStructures(database(), asof ? new Date(asof) : undefined) };
});
