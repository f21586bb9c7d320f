import * as api from '$lib/api/activity/endpoints';
import { notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { findAsof, listExpectedMoves } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

export const GET = handleOfSymbol(api.expectedMoves, async ({ path, query }) => {
  const { asof, from } = query;
  const underlying = await knownUnderlying(path.symbol);
  const { symbol } = underlying;
  const last = await findAsof(database(), symbol, asof ? new Date(asof) : undefined);
  if (!last) throw notFound(`no snapshot of ${symbol}${asof ? ` at or before ${asof}` : ''} is held`);
  const moves = await listExpectedMoves(database(), underlying, from ? new Date(from) : last, last);
  return { symbol, moves };
});
