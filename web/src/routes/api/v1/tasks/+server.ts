import { endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listTasks, startTask } from '$lib/server/jobs';
import { taskAnswer } from './record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async () => ({ tasks: (await listTasks(database())).map(taskAnswer) }));

export const POST = endpoint(async (event: RequestEvent) => {
  const { kind, symbols } = await readBody(event, schemas.TaskRequest);
  const task = await startTask(database(), kind, symbols ? { symbols } : {});
  return new Response(JSON.stringify(taskAnswer(task)), {
    status: 202,
    headers: { 'content-type': 'application/json', location: `/api/v1/tasks/${task.id}` },
  });
});
