import { endpoint } from '$lib/server/api';
import { database } from '$lib/server/database';
import { cancelTask } from '$lib/server/jobs';
import { taskAnswer, taskOf } from '../../record';
import type { RequestEvent } from './$types';

export const POST = endpoint(async ({ params }: RequestEvent) => {
  const { id } = await taskOf(params);
  await cancelTask(database(), id);
  return taskAnswer(await taskOf(params));
});
