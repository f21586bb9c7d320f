import { ApiError, endpoint } from '$lib/server/api';
import { snapshotAnswer } from '$lib/server/market';
import { knownSnapshot, knownUnderlying } from '../../lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { symbol, asof } = event.params;
  const moment = asof === 'latest' ? undefined : new Date(asof);
  if (moment && Number.isNaN(moment.getTime())) {
    throw new ApiError(400, 'Invalid input', `asof: ${asof} is not a moment like 2031-03-13T16:45:00Z`);
  }
  const [underlying, stored] = await Promise.all([knownUnderlying(symbol), knownSnapshot(symbol, moment)]);
  return snapshotAnswer(underlying, stored);
});
