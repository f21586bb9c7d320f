import type { z } from 'zod';
import { creatingEndpoint, endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listTasks, startExport, startTask } from '$lib/server/jobs';
import { refuseUnwritable, scopeOf, storedFile } from '../exports/request';
import { taskAnswer } from './record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async () => ({ tasks: (await listTasks(database())).map(taskAnswer) }));

export const POST = creatingEndpoint(database, async (event: RequestEvent) => {
  const wanted = await readBody(event, schemas.TaskRequest);
  const { symbols } = wanted;
  const task =
    wanted.kind === 'export'
      ? await queueExport(wanted)
      : await startTask(database(), 'rebuild', symbols ? { symbols } : {});
  return new Response(JSON.stringify(taskAnswer(task)), {
    status: 202,
    headers: { 'content-type': 'application/json', location: `/api/v1/tasks/${task.id}` },
  });
});

function queueExport({ file, symbols, ...bounds }: Extract<z.infer<typeof schemas.TaskRequest>, { kind: 'export' }>) {
  const { what, format } = storedFile(file);
  refuseUnwritable(what, format);
  return startExport(database(), what, format, scopeOf(symbols, bounds));
}
