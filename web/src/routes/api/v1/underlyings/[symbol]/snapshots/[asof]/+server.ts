import { ApiError, schemas } from '$lib/server/api';
import { snapshotAnswer } from '$lib/server/market';
import { keptEndpoint, knownSnapshot, knownUnderlying } from '../../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { symbol, asof } = event.params;
  if (asof !== 'latest' && !schemas.moment.safeParse(asof).success) {
    throw new ApiError(400, 'Invalid input', `asof: ${asof} is not a moment like 2031-03-13T16:45:00Z`);
  }
  const moment = asof === 'latest' ? undefined : new Date(asof);
  const [underlying, stored] = await Promise.all([knownUnderlying(symbol), knownSnapshot(symbol, moment)]);
  return snapshotAnswer(underlying, stored);
});
