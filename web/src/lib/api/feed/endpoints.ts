import { z } from 'zod';
import { defineEndpoint } from '../define';
import { SnapshotResponse } from '../snapshots/schemas';
import { FeedRequest, FeedResponse, StreamPrices, StreamQuery } from './schemas';

export const getFeed = defineEndpoint({
  method: 'GET',
  path: '/feed',
  access: 'open',
  summary: 'The simulated feed as it stands',
  response: FeedResponse,
});

export const setFeed = defineEndpoint({
  method: 'POST',
  path: '/feed',
  access: 'open',
  summary: 'Lets the simulated feed go on, stand still, or begin anew',
  body: FeedRequest,
  response: FeedResponse,
});

export const stream = defineEndpoint({
  method: 'GET',
  path: '/stream',
  access: 'open',
  summary: 'Server-sent events of the simulated feed; who reads slowly gets the newest of each kind',
  query: StreamQuery,
  response: z.union([FeedResponse, StreamPrices, SnapshotResponse]),
  answers: 'events',
});
