import { listAnswer, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listMeasures, summaryOf } from '$lib/server/market';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { symbol } = await knownUnderlying(event.params.symbol);
  return listAnswer(
    event,
    'snapshots',
    schemas.SnapshotsResponse.shape.snapshots,
    (await listMeasures(database(), symbol)).map(summaryOf),
  );
});
