import { endpoint, readBody, schemas } from '$lib/server/api';
import { database, feedHub } from '$lib/server/database';
import { feedAnswer, readFeed, startFeed, stopFeed } from '$lib/server/feed';
import { findImport, takeBackImport, wakeFeed } from '$lib/server/jobs';
import type { RequestEvent } from './$types';

const DEFAULT_SPEED = 1;

export const GET = endpoint(async () => feedAnswer(await readFeed(database())));

export const POST = endpoint(async (event: RequestEvent) => {
  const { action, speed } = await readBody(event, schemas.FeedRequest);
  if (action === 'start') await startFeed(database(), speed ?? DEFAULT_SPEED);
  else await stopFeed(database());
  if (action === 'reset') {
    const { importId } = await readFeed(database());
    const record = importId === null ? null : await findImport(database(), importId);
    if (record) await takeBackImport(database(), record);
  }
  await wakeFeed(database());
  feedHub().look();
  return feedAnswer(await readFeed(database()));
});
