import { Readable } from 'node:stream';
import { endpoint, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { StateError } from '$lib/server/errors';
import { CONTENT_TYPES, type ExportFormat } from '$lib/server/export';
import { fileNameOf, readTaskFile } from '$lib/server/jobs';
import { taskOf } from '../../record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async ({ params }: RequestEvent) => {
  const task = await taskOf(params);
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
