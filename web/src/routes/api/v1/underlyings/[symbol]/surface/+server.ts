import { database } from '$lib/server/database';
import { listEvents, surfaceAnswer } from '$lib/server/market';
import { keptEndpoint, requestedSnapshot } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { underlying, stored } = await requestedSnapshot(event);
  const { events } = await listEvents(database(), underlying.symbol);
  return surfaceAnswer(
    underlying,
    stored,
    events.map(({ start }) => start.getTime()),
  );
});
