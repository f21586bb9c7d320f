import { jsonAnswer } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listEvents, valued } from '$lib/server/market';
import { keptEndpoint, requestedSnapshot } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { underlying, stored } = await requestedSnapshot(event);
  const listed = await listEvents(database(), underlying.symbol);
  const events = listed.events.map(({ start }) => start.getTime());
  return jsonAnswer(await valued({ kind: 'surface', underlying, stored, events }));
});
