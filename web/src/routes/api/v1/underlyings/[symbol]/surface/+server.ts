import * as api from '$lib/api/snapshots/endpoints';
import { jsonAnswer } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listEvents, valued } from '$lib/server/market';
import { handleOfSymbol, requestedSnapshot } from '../lookup';

export const GET = handleOfSymbol(api.surface, async ({ path, query }) => {
  const { underlying, stored } = await requestedSnapshot(path, query);
  const listed = await listEvents(database(), underlying.symbol);
  const events = listed.events.map(({ start }) => start.getTime());
  return jsonAnswer(await valued({ kind: 'surface', underlying, stored, events }));
});
