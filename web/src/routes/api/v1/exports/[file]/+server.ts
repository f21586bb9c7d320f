import { Readable } from 'node:stream';
import { endpoint, LARGE_BODY, notFound, readBody, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { CONTENT_TYPES, exportTable, writeTable, type ExportFormat, type ExportTable } from '$lib/server/export';
import { fileParts, refuseUnwritable, scopeOf, storedFile } from '../request';
import type { RequestEvent } from './$types';

/** A file as it is written. Its first bytes are waited for: what cannot be read at all is no file that breaks off. */
async function answer(table: ExportTable, format: ExportFormat): Promise<Response> {
  refuseUnwritable(table.name, format);
  const bytes = writeTable(table, format)[Symbol.asyncIterator]();
  const first = await bytes.next();
  async function* all() {
    if (!first.done) yield first.value as Buffer;
    yield* { [Symbol.asyncIterator]: () => bytes };
  }
  return new Response(Readable.toWeb(Readable.from(all())) as ReadableStream, {
    headers: {
      'content-type': CONTENT_TYPES[format],
      'content-disposition': `attachment; filename="${table.name}.${format}"`,
    },
  });
}

export const GET = endpoint((event: RequestEvent) => {
  const { what, format } = storedFile(event.params.file);
  const query = readQuery(event, schemas.ExportQuery);
  const symbols = query.symbol?.split(',').map((name) => name.trim());
  return answer(exportTable(database(), what, scopeOf(symbols, query)), format);
});

const NAME = /^[a-z0-9-]{1,60}$/;
const BATCH = 5000;

/** What a view shows: its numbers are those of the page, and only the format is made here. */
export const POST = endpoint(async (event: RequestEvent) => {
  const { name, format } = fileParts(event.params.file);
  if (!NAME.test(name)) throw notFound('a file is named by small letters, digits and hyphens');
  const { columns, rows } = await readBody(event, schemas.ViewTable, LARGE_BODY);
  const inBatches = async function* () {
    for (let at = 0; at < rows.length; at += BATCH) yield rows.slice(at, at + BATCH);
  };
  return answer({ name, columns, rows: inBatches() }, format);
});
