import * as api from '$lib/api/underlyings/endpoints';
import { held } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { peersOf } from '$lib/server/market';
import { knownUnderlying } from '../lookup';

export const GET = handle(api.peers, async ({ path, query }) => {
  const { asof, sessions, count, apart, alike } = query;
  const { symbol } = await knownUnderlying(path.symbol);
  return peersOf(held(), {
    ...{ symbol, sessions, count },
    moment: asof ? new Date(asof) : undefined,
    isApart: apart === 'true',
    isSameKind: alike === 'true',
  });
});
