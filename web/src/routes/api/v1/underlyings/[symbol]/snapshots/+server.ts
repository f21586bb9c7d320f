import * as api from '$lib/api/snapshots/endpoints';
import { database } from '$lib/server/database';
import { listMeasures, summaryOf } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

export const GET = handleOfSymbol(api.listSnapshots, async ({ path }) => {
  const { symbol } = await knownUnderlying(path.symbol);
  return { snapshots: (await listMeasures(database(), symbol)).map(summaryOf) };
});
