import { endpoint, listAnswer } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listMeasures, summaryOf } from '$lib/server/market';
import { knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { symbol } = await knownUnderlying(event.params.symbol);
  return listAnswer(event, 'snapshots', (await listMeasures(database(), symbol)).map(summaryOf));
});
