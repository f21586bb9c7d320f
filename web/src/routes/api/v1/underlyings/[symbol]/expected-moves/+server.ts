import { listAnswer, notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { findAsof, listExpectedMoves } from '$lib/server/market';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { asof, from, format } = readQuery(event, schemas.ExpectedMovesQuery);
  const underlying = await knownUnderlying(event.params.symbol);
  const { symbol } = underlying;
  const last = await findAsof(database(), symbol, asof ? new Date(asof) : undefined);
  if (!last) throw notFound(`no snapshot of ${symbol}${asof ? ` at or before ${asof}` : ''} is held`);
  const moves = await listExpectedMoves(database(), underlying, from ? new Date(from) : last, last);
  return format === 'csv'
    ? listAnswer(event, 'moves', schemas.ExpectedMovesResponse.shape.moves, moves)
    : { symbol, moves };
});
