import { endpoint, readQuery, schemas } from '$lib/server/api';
import { held } from '$lib/server/database';
import { peersOf } from '$lib/server/market';
import { knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { asof, sessions, count, apart, alike } = readQuery(event, schemas.PeersQuery);
  const { symbol } = await knownUnderlying(event.params.symbol);
  return peersOf(held(), {
    ...{ symbol, sessions, count },
    moment: asof ? new Date(asof) : undefined,
    isApart: apart === 'true',
    isSameKind: alike === 'true',
  });
});
