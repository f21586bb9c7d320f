import busboy from 'busboy';
import { once } from 'node:events';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { ApiError, endpoint, listAnswer, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { importFile } from '$lib/server/ingest';
import { listImports } from '$lib/server/market';
import { importAnswer } from './record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) =>
  listAnswer(event, 'imports', (await listImports(database())).map(importAnswer)),
);

interface IncomingFile {
  name: string;
  source: Readable;
}

/** The file of a request: the body itself, or the first file of a form. It is read as it comes. */
async function incomingFile(request: Request, name: string | undefined): Promise<IncomingFile> {
  if (!request.body)
    throw new ApiError(400, 'Invalid input', 'there is no body: send a CSV file with its Content-Type, text/csv');
  const body = Readable.fromWeb(request.body as ReadableStream);
  const type = request.headers.get('content-type') ?? '';
  if (!type.startsWith('multipart/form-data')) return { name: name ?? 'upload.csv', source: body };
  const form = busboy({ headers: { 'content-type': type }, limits: { files: 1 } });
  const first = once(form, 'file');
  const ended = once(form, 'close').then(() => null);
  body.pipe(form);
  const found = (await Promise.race([first, ended])) as [string, Readable, { filename?: string }] | null;
  if (!found) throw new ApiError(400, 'Invalid input', 'the form holds no file');
  return { name: name ?? found[2].filename ?? 'upload.csv', source: found[1] };
}

export const POST = endpoint(async (event: RequestEvent) => {
  const { name, acceptBadRows } = readQuery(event, schemas.ImportQuery);
  const file = await incomingFile(event.request, name);
  const record = await importFile(database(), { ...file, acceptBadRows: acceptBadRows === 'true' });
  const answer = importAnswer(record);
  if (record.status === 'done') return answer;
  const errors = record.faults.map(({ row, column, value, reason }) => ({
    path: `row ${row}, column ${column}`,
    message: `“${value}” ${reason}`,
  }));
  const title = record.status === 'refused' ? 'The file has bad rows' : 'The file cannot be read';
  throw new ApiError(422, title, record.detail ?? title, { id: record.id, import: answer, errors });
});
