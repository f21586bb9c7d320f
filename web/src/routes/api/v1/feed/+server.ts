import * as api from '$lib/api/feed/endpoints';
import { database, feedHub } from '$lib/server/database';
import { feedAnswer, readFeed, startFeed, stopFeed } from '$lib/server/feed';
import { handle } from '$lib/server/handle';
import { findImport, takeBackImport, wakeFeed } from '$lib/server/jobs';

const DEFAULT_SPEED = 1;

export const GET = handle(api.getFeed, async () => feedAnswer(await readFeed(database())));

export const POST = handle(api.setFeed, async ({ body }) => {
  const { action, speed } = body;
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
