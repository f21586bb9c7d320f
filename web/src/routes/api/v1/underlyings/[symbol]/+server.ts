import { endpoint, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { measuredAt } from '$lib/server/market';
import { knownUnderlying } from './lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { asof } = readQuery(event, schemas.AsofQuery);
  const underlying = await knownUnderlying(event.params.symbol);
  const [row] = await measuredAt(database(), [underlying], asof ? new Date(asof) : undefined);
  return row;
});
