import { schemas } from '$lib/api';
import * as api from '$lib/api/snapshots/endpoints';
import { ApiError } from '$lib/server/api';
import { snapshotAnswer } from '$lib/server/market';
import { handleOfSymbol, knownSnapshot, knownUnderlying } from '../../lookup';

export const GET = handleOfSymbol(api.getSnapshot, async ({ path }) => {
  const { symbol, asof } = path;
  if (asof !== 'latest' && !schemas.moment.safeParse(asof).success) {
    throw new ApiError(400, 'Invalid input', `asof: ${asof} is not a moment like 2031-03-13T16:45:00Z`);
  }
  const moment = asof === 'latest' ? undefined : new Date(asof);
  const [underlying, stored] = await Promise.all([knownUnderlying(symbol), knownSnapshot(symbol, moment)]);
  return snapshotAnswer(underlying, stored);
});
