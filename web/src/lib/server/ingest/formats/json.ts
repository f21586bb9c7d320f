import { Readable } from 'node:stream';
import { chain } from 'stream-chain';
import { parser } from 'stream-json';
import { pick } from 'stream-json/filters/pick.js';
import { streamArray } from 'stream-json/streamers/stream-array.js';
import { streamValues } from 'stream-json/streamers/stream-values.js';
import { damageOf, TableError, type TableBatch, type TableReader, type TableRow } from '../table';
import { cellOf } from './cells';
import { checkWidth, MOST_COLUMNS } from './width';

/** No item is longer than this; a text that is never closed would be. */
const LONGEST_ITEM = 4_000_000;
/** The columns are those that the first items have. */
const FIRST_ITEMS = 1000;
const ROWS_PER_BATCH = 1000;

const NAMED_LIST = /^\uFEFF?\s*\{\s*"((?:[^"\\]|\\.)*)"\s*:\s*\[/;

/**
 * Reads JSON as a table, streamed: a list of objects, an object whose first member is such a list (as the API answers),
 * or one object per line. Rows are counted by item, from 1.
 */
export class JsonReader implements TableReader {
  constructor(
    private readonly source: AsyncIterable<Buffer>,
    private readonly head: string,
  ) {}

  async *batches(): AsyncGenerator<TableBatch> {
    let columns: string[] | null = null;
    let first: Record<string, unknown>[] = [];
    let number = 0;
    let waiting: TableRow[] = [];
    const known = new Set<string>();
    const start = function* (): Generator<TableBatch> {
      columns = [...known];
      if (first.length > 0) yield { rows: [{ number: 0, cells: columns }] };
      waiting = first.map((item) => rowOf(item, ++number, columns!));
      first = [];
    };
    for await (const item of this.items()) {
      if (typeof item !== 'object' || item === null || Array.isArray(item)) {
        throw new TableError(`item ${number + first.length + 1}: is not an object with a value per column`);
      }
      if (columns) {
        checkLate(item as Record<string, unknown>, number + 1, known);
        waiting.push(rowOf(item as Record<string, unknown>, ++number, columns));
      } else {
        for (const name of Object.keys(item)) {
          known.add(name);
          if (known.size > MOST_COLUMNS) checkWidth(known.size, true);
        }
        if (first.push(item as Record<string, unknown>) === FIRST_ITEMS) yield* start();
      }
      if (waiting.length >= ROWS_PER_BATCH) {
        yield { rows: waiting };
        waiting = [];
      }
    }
    if (!columns) yield* start();
    if (waiting.length > 0) yield { rows: waiting };
  }

  private async *items(): AsyncGenerator<unknown> {
    let sinceLast = 0;
    let count = 0;
    const { source } = this;
    const limited = async function* () {
      for await (const chunk of source) {
        sinceLast += chunk.length;
        // One chunk may hold many items that are only counted when they come out.
        if (sinceLast > LONGEST_ITEM + 2 * chunk.length) {
          throw new TableError(`after item ${count}: an item is longer than ${LONGEST_ITEM / 1e6} million characters`);
        }
        yield chunk;
      }
    };
    const name = NAMED_LIST.exec(this.head)?.[1];
    const isList = /^\uFEFF?\s*\[/.test(this.head);
    const input = Readable.from(limited());
    const stages = isList
      ? [parser(), streamArray()]
      : name !== undefined
        ? [parser(), pick({ filter: (path) => path.length === 1 && path[0] === name }), streamArray()]
        : [parser({ jsonStreaming: true }), streamValues()];
    const items = chain([input, ...stages] as Parameters<typeof chain>[0]);
    try {
      for await (const { value } of items as AsyncIterable<{ value: unknown }>) {
        sinceLast = 0;
        count++;
        yield value;
      }
    } catch (error) {
      if (error instanceof TableError) throw error;
      throw new TableError(`after item ${count}: ${damageOf(error)}`);
    } finally {
      input.destroy();
      items.destroy();
    }
  }
}

function checkLate(item: Record<string, unknown>, number: number, known: ReadonlySet<string>): void {
  for (const [key, value] of Object.entries(item)) {
    if (known.has(key) || value === null) continue;
    throw new TableError(`item ${number}: has “${key}”, which none of the first ${FIRST_ITEMS} items has`);
  }
}

function rowOf(item: Record<string, unknown>, number: number, columns: readonly string[]): TableRow {
  return { number, cells: columns.map((column) => cellOf(item[column])) };
}
