import { Readable } from 'node:stream';
import * as api from '$lib/api/exports/endpoints';
import { LARGE_BODY, notFound, readBytes } from '$lib/server/api';
import { database } from '$lib/server/database';
import {
  CONTENT_TYPES,
  exportTable,
  sentTable,
  writeTable,
  type ExportFormat,
  type ExportTable,
} from '$lib/server/export';
import { handle } from '$lib/server/handle';
import { fileParts, refuseUnwritable, scopeOf, storedFile } from '../request';

const headersOf = (name: string, format: ExportFormat) => ({
  'content-type': CONTENT_TYPES[format],
  'content-disposition': `attachment; filename="${name}.${format}"`,
});

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
    headers: headersOf(table.name, format),
  });
}

export const GET = handle(api.exportFile, ({ path, query }) => {
  const { what, format } = storedFile(path.file);
  const symbols = query.symbol?.split(',').map((name) => name.trim());
  return answer(exportTable(database(), what, scopeOf(symbols, query)), format);
});

const NAME = /^[a-z0-9-]{1,60}$/;

/** What a view shows: its numbers are those of the page, and only the format is made here. */
export const POST = handle(api.writeFile, async ({ path, event }) => {
  const { name, format } = fileParts(path.file);
  if (!NAME.test(name)) throw notFound('a file is named by small letters, digits and hyphens');
  refuseUnwritable(name, format);
  const { request } = event;
  const file = await sentTable(name, format, await readBytes(request, LARGE_BODY), request.signal);
  return new Response(file as Uint8Array<ArrayBuffer>, { headers: headersOf(name, format) });
});
