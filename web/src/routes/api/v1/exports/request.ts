import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { ApiError, notFound } from '$lib/server/api';
import { EXPORT_FORMATS, EXPORTS, type ExportFormat, type ExportName, type ExportScope } from '$lib/server/export';

const DAY = /^\d{4}-\d\d-\d\d$/;

/** A day as a bound means all of it. */
const lastMoment = (text: string) => new Date(DAY.test(text) ? `${text}T23:59:59.999Z` : text);

/** Name and format of a file. */
export function fileParts(file: string): { name: string; format: ExportFormat } {
  const [name = '', format = ''] = file.split(/\.(?=[^.]*$)/);
  if (!(EXPORT_FORMATS as readonly string[]).includes(format)) {
    throw notFound(`there is no ${format} of it; there are ${EXPORT_FORMATS.join(', ')}`);
  }
  return { name, format: format as ExportFormat };
}

/** The table of the database that a file is of. */
export function storedFile(file: string): { what: ExportName; format: ExportFormat } {
  const name = file.split('.')[0] ?? '';
  if (!(EXPORTS as readonly string[]).includes(name)) {
    throw notFound(`${name} is not exported; there are ${EXPORTS.join(', ')}`);
  }
  return { what: name as ExportName, format: fileParts(file).format };
}

/** Refuses a file that its format cannot hold. */
export function refuseUnwritable(name: string, format: ExportFormat): void {
  if (format === 'ics' && name !== 'events') {
    throw new ApiError(422, 'Cannot be exported so', 'only events are written as iCalendar');
  }
}

/** What an export is narrowed to. */
export function scopeOf(
  symbols: readonly string[] | undefined,
  { asof, from, to }: Pick<z.infer<typeof schemas.ExportQuery>, 'asof' | 'from' | 'to'>,
): ExportScope {
  const [first, last] = [asof ?? from, asof ?? to];
  return { symbols, from: first ? new Date(first) : undefined, to: last ? lastMoment(last) : undefined };
}
