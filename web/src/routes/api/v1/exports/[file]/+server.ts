import { Readable } from 'node:stream';
import { ApiError, endpoint, notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import {
  CONTENT_TYPES,
  EXPORT_FORMATS,
  ExportError,
  EXPORTS,
  exportTable,
  writeTable,
  type ExportFormat,
  type ExportName,
} from '$lib/server/export';
import type { RequestEvent } from './$types';

const DAY = /^\d{4}-\d\d-\d\d$/;

/** A day as a bound means all of it. */
const lastMoment = (text: string) => new Date(DAY.test(text) ? `${text}T23:59:59.999Z` : text);

export const GET = endpoint((event: RequestEvent) => {
  const [what = '', format = ''] = event.params.file.split(/\.(?=[^.]*$)/);
  if (!(EXPORTS as readonly string[]).includes(what)) {
    throw notFound(`${what} is not exported; there are ${EXPORTS.join(', ')}`);
  }
  if (!(EXPORT_FORMATS as readonly string[]).includes(format)) {
    throw notFound(`there is no ${format} of it; there are ${EXPORT_FORMATS.join(', ')}`);
  }
  const { symbol, asof, from, to } = readQuery(event, schemas.ExportQuery);
  const [first, last] = [asof ?? from, asof ?? to];
  const table = exportTable(database(), what as ExportName, {
    symbols: symbol?.split(',').map((name) => name.trim()),
    from: first ? new Date(first) : undefined,
    to: last ? lastMoment(last) : undefined,
  });
  let stream: Readable;
  try {
    stream = writeTable(table, format as ExportFormat);
  } catch (error) {
    if (error instanceof ExportError) throw new ApiError(422, 'Cannot be exported so', error.message);
    throw error;
  }
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      'content-type': CONTENT_TYPES[format as ExportFormat],
      'content-disposition': `attachment; filename="${what}.${format}"`,
    },
  });
});
