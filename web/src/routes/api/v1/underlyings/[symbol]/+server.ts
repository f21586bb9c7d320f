import { endpoint, readQuery, schemas } from '$lib/server/api';
import { held } from '$lib/server/database';
import { universeAt } from '$lib/server/market';
import { knownUnderlying } from './lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { asof } = readQuery(event, schemas.AsofQuery);
  const underlying = await knownUnderlying(event.params.symbol);
  const [row] = await universeAt(held(), asof ? new Date(asof) : undefined, underlying.symbol);
  return row;
});
