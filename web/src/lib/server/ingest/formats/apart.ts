import { MessageChannel } from 'node:worker_threads';
import type { Piscina } from 'piscina';
import { isOutOfMemory, openPool } from '../../threads';
import type { FileSource } from '../source';
import { TableError, type TableReader, type TableRow } from '../table';
import type { FromReader, ReadEnd, ReadTask, ToReader } from './messages';
import type { Opening } from './open';

/** A batch of rows is read in a second or two; of a hostile file one may never come to its end. */
const LONGEST_MS = 30_000;
/** What is decoded at once; a damaged file may ask for any amount of it. */
const MOST_MEGABYTES = 400;
/** Files that are read at a time. */
const THREADS = 3;

let opened: Piscina | null = null;
const pool = () => (opened ??= openPool('ingest/formats/read', THREADS, MOST_MEGABYTES));

/** How a file is read in a thread. */
export interface Apart {
  /** Longer cells are cut, by whoever only looks at a file. */
  longestCell?: number;
  /** Signal of the caller. */
  signal?: AbortSignal;
}

/**
 * Reads a file as a table in a thread of its own, with limits of memory and time: whatever is in it, and whatever the
 * library for its format makes of that, nobody else waits.
 */
export class ApartReader implements TableReader {
  constructor(
    private readonly source: FileSource,
    private readonly opening: Opening,
    private readonly apart: Apart = {},
  ) {}

  async *batches(): AsyncGenerator<{ rows: TableRow[] }> {
    const { source, opening } = this;
    const { longestCell, signal } = this.apart;
    signal?.throwIfAborted();
    const { port1: port, port2 } = new MessageChannel();
    const ending = new AbortController();
    const say = (message: ToReader, transfer: ArrayBuffer[] = []) => port.postMessage(message, transfer);
    const streams = new Map<number, AsyncIterator<Buffer>>();
    const bytesFor = async (asked: Extract<FromReader, { asked: number }>): Promise<Buffer | null> => {
      if ('from' in asked) return source.slice(asked.from, asked.to);
      const stream = streams.get(asked.stream) ?? source.stream()[Symbol.asyncIterator]();
      streams.set(asked.stream, stream);
      const { done, value } = await stream.next();
      return done ? null : value;
    };
    // Messages that have arrived, and the caller that waits for one.
    const batches: TableRow[][] = [];
    let wake = () => {};
    let isLate = false;
    let failure: unknown;
    let timer: NodeJS.Timeout | undefined;
    const watch = () => {
      clearTimeout(timer);
      timer = setTimeout(() => {
        isLate = true;
        ending.abort();
      }, LONGEST_MS);
    };
    port.on('message', (message: FromReader) => {
      if ('rows' in message) {
        clearTimeout(timer);
        batches.push(message.rows);
        wake();
        return;
      }
      // Time spent waiting for the file itself does not count against the reader.
      clearTimeout(timer);
      bytesFor(message).then(
        (bytes) => {
          const copy = bytes && new Uint8Array(bytes);
          watch();
          say({ asked: message.asked, bytes: copy }, copy ? [copy.buffer] : []);
        },
        (error: unknown) => {
          failure = error;
          say({ asked: message.asked, isLost: true });
        },
      );
    });
    const task: ReadTask = { port: port2, opening, size: source.size, longestCell };
    const end: { how?: ReadEnd; error?: unknown } = {};
    const over = pool()
      .run(task, { transferList: [port2], signal: signal ? AbortSignal.any([signal, ending.signal]) : ending.signal })
      .then(
        (how: ReadEnd) => (end.how = how),
        (error: unknown) => (end.error = error),
      )
      .finally(async () => {
        clearTimeout(timer);
        wake();
        port.close();
        for (const stream of streams.values()) await stream.return?.();
      });
    let rows = 0;
    try {
      for (;;) {
        const batch = batches.shift();
        if (batch) {
          // The next is read while this one is worked on.
          watch();
          say({ goOn: true });
          rows += batch.length;
          yield { rows: batch };
        } else if (end.how || end.error !== undefined) break;
        else
          await new Promise<void>((resolve) => {
            wake = resolve;
          });
      }
      signal?.throwIfAborted();
      if (failure !== undefined) throw failure;
      if (end.how?.problem) throw new TableError(end.how.problem);
      if (isLate) throw new TableError(`after row ${rows}: reading does not come to an end`);
      if (isOutOfMemory(end.error))
        throw new TableError(`after row ${rows}: the file asks for more memory than any table needs`);
      if (end.error !== undefined) throw end.error;
    } finally {
      // The caller does not wait for an unwanted thread to stop.
      say({ goOn: false });
      over.catch((error: unknown) => console.error(error));
    }
  }
}
