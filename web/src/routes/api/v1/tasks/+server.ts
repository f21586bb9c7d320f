import type { z } from 'zod';
import type { schemas } from '$lib/api';
import * as api from '$lib/api/tasks/endpoints';
import { jsonAnswer } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { listTasks, startExport, startTask } from '$lib/server/jobs';
import { refuseUnwritable, scopeOf, storedFile } from '../exports/request';
import { taskAnswer } from './record';

export const GET = handle(api.listTasks, async () => ({ tasks: (await listTasks(database())).map(taskAnswer) }));

export const POST = handle(api.startTask, async ({ body }) => {
  const { symbols } = body;
  const task =
    body.kind === 'export'
      ? await queueExport(body)
      : await startTask(database(), 'rebuild', symbols ? { symbols } : {});
  return jsonAnswer(JSON.stringify(taskAnswer(task)), {
    status: 202,
    headers: { location: `/api/v1/tasks/${task.id}` },
  });
});

function queueExport({ file, symbols, ...bounds }: Extract<z.infer<typeof schemas.TaskRequest>, { kind: 'export' }>) {
  const { what, format } = storedFile(file);
  refuseUnwritable(what, format);
  return startExport(database(), what, format, scopeOf(symbols, bounds));
}
