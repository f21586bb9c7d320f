import busboy from 'busboy';
import { once } from 'node:events';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { ApiError, endpoint, listAnswer, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listImports, receiveImport } from '$lib/server/jobs';
import { importAnswer, importSummary } from './record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) =>
  listAnswer(event, 'imports', (await listImports(database())).map(importSummary)),
);

interface IncomingFile {
  name: string;
  source: Readable;
}

/** The file of a request: the body itself, or the first file of a form. It is read as it comes. */
async function incomingFile(request: Request, name: string | undefined): Promise<IncomingFile> {
  if (!request.body)
    throw new ApiError(400, 'Invalid input', 'there is no body: send a file with its Content-Type, such as text/csv');
  const body = Readable.fromWeb(request.body as ReadableStream);
  const type = request.headers.get('content-type') ?? '';
  if (!type.startsWith('multipart/form-data')) return { name: name ?? 'upload', source: body };
  const form = busboy({ headers: { 'content-type': type }, limits: { files: 1 } });
  const first = once(form, 'file');
  const ended = once(form, 'close').then(() => null);
  body.pipe(form);
  const found = (await Promise.race([first, ended])) as [string, Readable, { filename?: string }] | null;
  if (!found) throw new ApiError(400, 'Invalid input', 'the form holds no file');
  return { name: name ?? found[2].filename ?? 'upload', source: found[1] };
}

export const POST = endpoint(async (event: RequestEvent) => {
  const { name, acceptBadRows, hold, ...conventions } = readQuery(event, schemas.ImportQuery);
  const file = await incomingFile(event.request, name);
  const record = await receiveImport(database(), file.name, file.source, {
    conventions,
    acceptBadRows: acceptBadRows === 'true',
    isHeld: hold === 'true',
  });
  return new Response(JSON.stringify(importAnswer(record)), {
    status: 202,
    headers: { 'content-type': 'application/json', location: `/api/v1/imports/${record.id}` },
  });
});
