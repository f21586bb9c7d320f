import { endpoint, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { universeAt } from '$lib/server/market';
import { knownUnderlying } from './lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { asof } = readQuery(event, schemas.AsofQuery);
  const { symbol } = await knownUnderlying(event.params.symbol);
  return (await universeAt(database(), asof ? new Date(asof) : undefined)).find((row) => row.symbol === symbol);
});
