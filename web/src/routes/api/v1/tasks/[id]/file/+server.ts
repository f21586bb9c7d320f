import { Readable } from 'node:stream';
import * as api from '$lib/api/tasks/endpoints';
import { notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { StateError } from '$lib/server/errors';
import { CONTENT_TYPES, type ExportFormat } from '$lib/server/export';
import { handle } from '$lib/server/handle';
import { fileNameOf, readTaskFile } from '$lib/server/jobs';
import { taskOf } from '../../record';

export const GET = handle(api.taskFile, async ({ path }) => {
  const task = await taskOf(path);
  const name = fileNameOf(task);
  if (name === null) throw notFound(`task ${task.id} makes no file`);
  if (task.status !== 'done') throw new StateError(`the file is not there: its task is ${task.status}`);
  if (task.fileBytes === null) throw notFound('the file is not kept any longer: let it be made again');
  return new Response(Readable.toWeb(Readable.from(readTaskFile(database(), task.id))) as ReadableStream, {
    headers: {
      'content-type': CONTENT_TYPES[name.split('.').pop() as ExportFormat],
      'content-length': String(task.fileBytes),
      'content-disposition': `attachment; filename="${name}"`,
    },
  });
});
