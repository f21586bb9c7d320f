import * as api from '$lib/api/tasks/endpoints';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { cancelTask } from '$lib/server/jobs';
import { taskAnswer, taskOf } from '../../record';

export const POST = handle(api.cancelTask, async ({ path }) => {
  const { id } = await taskOf(path);
  await cancelTask(database(), id);
  return taskAnswer(await taskOf(path));
});
