import ICAL from 'ical.js';
import { DateTime } from 'luxon';
import { damageOf, TableError, type TableBatch, type TableReader, type TableRow } from '../table';

/** A calendar is read at once. */
const MOST_BYTES = 20_000_000;
/** Ours, for what RFC 5545 has no property for: the kind of an event. */
export const KIND_PROPERTY = 'x-umwelt-kind';

/**
 * Reads the events of an iCalendar file (RFC 5545) as an `events` table: the symbol is the first of the CATEGORIES,
 * blank for an event of all. Rows are counted by event, from 1.
 */
export class IcsReader implements TableReader {
  constructor(private readonly source: AsyncIterable<Buffer>) {}

  async *batches(): AsyncGenerator<TableBatch> {
    const chunks: Buffer[] = [];
    let length = 0;
    for await (const chunk of this.source) {
      chunks.push(chunk);
      length += chunk.length;
      if (length > MOST_BYTES) throw new TableError(`a calendar of more than ${MOST_BYTES / 1e6} MB is not read`);
    }
    yield { rows: [{ number: 0, cells: ['symbol', 'start', 'title', 'kind'] }] };
    yield {
      rows: eventsOf(
        Buffer.concat(chunks)
          .toString('utf8')
          .replace(/^\uFEFF/, ''),
      ),
    };
  }
}

function eventsOf(text: string): TableRow[] {
  let number = 0;
  try {
    const calendar = new ICAL.Component(ICAL.parse(text) as ConstructorParameters<typeof ICAL.Component>[0]);
    return calendar.getAllSubcomponents('vevent').map((event) => rowOf(event, ++number));
  } catch (error) {
    if (error instanceof TableError) throw error;
    // The library reads values only when they are asked for.
    throw new TableError(`event ${Math.max(1, number)}: the calendar is damaged: ${damageOf(error)}`);
  }
}

function rowOf(event: ICAL.Component, number: number): TableRow {
  if (event.hasProperty('rrule')) throw new TableError(`event ${number}: repeats (RRULE); write each of its days`);
  const text = (name: string) => String(event.getFirstPropertyValue(name) ?? '');
  return { number, cells: [text('categories'), startOf(event, number), text('summary'), text(KIND_PROPERTY)] };
}

function startOf(event: ICAL.Component, number: number): string {
  const property = event.getFirstProperty('dtstart');
  const time = property?.getFirstValue();
  if (!(time instanceof ICAL.Time)) return '';
  const clock = time.toString();
  const zone = property?.getFirstParameter('tzid');
  if (time.isDate || clock.endsWith('Z') || !zone) return clock;
  const moment = DateTime.fromISO(clock, { zone });
  if (!moment.isValid) throw new TableError(`event ${number}: the zone “${zone}” is not known`);
  return moment.toUTC().toISO()!;
}
