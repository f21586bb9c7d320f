import ICAL from 'ical.js';
import { DateTime } from 'luxon';
import { damageOf, TableError, type TableBatch, type TableReader, type TableRow } from '../table';

/** No event is longer, pictures that are sent along in it included. */
const LONGEST_EVENT = 4_000_000;
const ROWS_PER_BATCH = 1000;
/** Ours, for what RFC 5545 has no property for: the kind of an event. */
export const KIND_PROPERTY = 'x-umwelt-kind';

/**
 * Reads the events of an iCalendar file (RFC 5545) as an `events` table: the symbol is the first of the CATEGORIES,
 * blank for an event of all. Rows are counted by event, from 1.
 */
export class IcsReader implements TableReader {
  constructor(private readonly source: AsyncIterable<Buffer>) {}

  async *batches(): AsyncGenerator<TableBatch> {
    yield { rows: [{ number: 0, cells: ['symbol', 'start', 'title', 'kind'] }] };
    let number = 0;
    let event: string[] | null = null;
    let length = 0;
    let isOver = false;
    let waiting: TableRow[] = [];
    for await (const line of this.lines(() => number)) {
      const word = line.trimEnd().toUpperCase();
      if (word === 'END:VCALENDAR') isOver = true;
      if (word === 'BEGIN:VEVENT') {
        event = [];
        length = 0;
        number++;
      }
      if (!event) continue;
      event.push(line);
      length += line.length;
      if (length > LONGEST_EVENT) throw tooLong(number);
      if (word !== 'END:VEVENT') continue;
      waiting.push(eventOf(event.join('\n'), number));
      event = null;
      if (waiting.length < ROWS_PER_BATCH) continue;
      yield { rows: waiting };
      waiting = [];
    }
    if (event) throw new TableError(`event ${number}: the calendar is damaged: it ends within the event`);
    if (!isOver) throw new TableError(`after event ${number}: the calendar is damaged: it has no end`);
    if (waiting.length > 0) yield { rows: waiting };
  }

  /** Lines as they stand in the file. Each event is parsed separately: a whole calendar would not fit into memory. */
  private async *lines(number: () => number): AsyncGenerator<string> {
    const decoder = new TextDecoder();
    let rest = '';
    for await (const chunk of this.source) {
      const lines = (rest + decoder.decode(chunk, { stream: true })).split('\n');
      rest = lines.pop()!;
      if (rest.length > LONGEST_EVENT) throw tooLong(number());
      yield* lines;
    }
    yield rest + decoder.decode();
  }
}

const tooLong = (number: number) =>
  new TableError(`event ${Math.max(1, number)}: is longer than ${LONGEST_EVENT / 1e6} million characters`);

function eventOf(text: string, number: number): TableRow {
  try {
    return rowOf(new ICAL.Component(ICAL.parse(text) as ConstructorParameters<typeof ICAL.Component>[0]), number);
  } catch (error) {
    if (error instanceof TableError) throw error;
    throw new TableError(`event ${number}: the calendar is damaged: ${damageOf(error)}`);
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
