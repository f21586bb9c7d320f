import * as api from '$lib/api/imports/endpoints';
import { ApiError, incomingFile, jsonAnswer } from '$lib/server/api';
import { database, uploadDatabase } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { listImports, receiveImport } from '$lib/server/jobs';
import { importAnswer, importSummary } from './record';

export const GET = handle(api.listImports, async () => ({
  imports: (await listImports(database())).map(importSummary),
}));

/** Files that come in at a time, from one caller and from all. */
const MOST_OF_CALLER = 16;
const MOST = 64;
const open = new Map<string, number>();

/** Does some work while it counts among the files of a caller that come in. */
async function amongUploads<T>(caller: string, work: () => Promise<T>): Promise<T> {
  const all = [...open.values()].reduce((sum, count) => sum + count, 0);
  const own = open.get(caller) ?? 0;
  if (own >= MOST_OF_CALLER || all >= MOST) {
    throw new ApiError(
      429,
      'Too many files',
      `${own >= MOST_OF_CALLER ? own : all} files come in already: wait for one of them`,
    );
  }
  open.set(caller, own + 1);
  try {
    return await work();
  } finally {
    const left = open.get(caller)! - 1;
    if (left > 0) open.set(caller, left);
    else open.delete(caller);
  }
}

export const POST = handle(api.startUpload, async ({ query, event }) => {
  const { name, acceptBadRows, hold, ...conventions } = query;
  const record = await amongUploads(event.getClientAddress(), async () => {
    const file = await incomingFile(event.request);
    return receiveImport(uploadDatabase(), name ?? file.name ?? 'upload', file.bytes, {
      conventions,
      acceptBadRows: acceptBadRows === 'true',
      isHeld: hold === 'true',
      announced: Number(event.request.headers.get('content-length')) || 0,
    });
  });
  return jsonAnswer(JSON.stringify(importAnswer(record)), {
    status: 202,
    headers: { location: `/api/v1/imports/${record.id}` },
  });
});
