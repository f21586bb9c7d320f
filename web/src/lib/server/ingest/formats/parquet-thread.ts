import type { FileMetaData } from 'hyparquet';
import { createRequire } from 'node:module';
import { pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { FileSource } from '../source';
import { damageOf } from '../table';

/** A column of a row group is decoded in a second or two; a damaged one may never come to its end. */
const LONGEST_MS = 30_000;
/** Decoded values of one column of a row group; a damaged one may ask for any number of them. */
const MOST_MEGABYTES = 400;

/**
 * What the thread runs. A text, since it has to be the same under every bundler and loader that this code runs with. The
 * file stays with the caller, who is asked for its parts.
 */
const PROGRAM = `
const { parentPort, workerData } = require('node:worker_threads');
const waiting = new Map();
let asked = 0;
const file = {
  byteLength: workerData.size,
  slice: (from, to = workerData.size) =>
    new Promise((resolve, reject) => {
      waiting.set(++asked, { resolve, reject });
      parentPort.postMessage({ part: asked, from, to });
    }),
};
const libraries = Promise.all([import(workerData.hyparquet), import(workerData.compressors)]);
let metadata;
async function work({ column, rowStart, rowEnd }) {
  const [{ parquetMetadataAsync, parquetReadObjects }, { compressors }] = await libraries;
  if (column === undefined) return (metadata = await parquetMetadataAsync(file));
  const rows = await parquetReadObjects({ file, metadata, compressors, columns: [column], rowStart, rowEnd });
  return rows.map((row) => row[column]);
}
parentPort.on('message', (message) => {
  if (message.part !== undefined) {
    const { resolve, reject } = waiting.get(message.part);
    waiting.delete(message.part);
    if (message.bytes) resolve(message.bytes);
    else reject(new Error(message.problem));
  } else
    work(message)
      .then((result) => parentPort.postMessage({ result }))
      .catch((error) => {
        // An error of the code itself says nothing to whoever made the file.
        const isTold = !(error instanceof TypeError || error instanceof RangeError);
        parentPort.postMessage({ problem: isTold ? String(error.message).slice(0, 200) : 'it is not what it says it is' });
      });
});
`;

/** A part of the file that the thread asks for. */
interface Asked {
  part: number;
  from: number;
  to: number;
}
type Message = Asked | { result: unknown } | { problem: string };

/**
 * Decodes a Parquet file in a thread of its own, which can be ended: a few wrong bytes make the decoder count to billions
 * or fill the memory.
 */
export class ParquetThread {
  private readonly thread: Worker;
  /** Whoever waits for an answer. */
  private asking: { resolve: (result: unknown) => void; reject: (error: Error) => void } | null = null;

  constructor(private readonly source: FileSource) {
    const resolve = (name: string) => pathToFileURL(createRequire(import.meta.url).resolve(name)).href;
    this.thread = new Worker(PROGRAM, {
      eval: true,
      workerData: {
        size: source.size,
        hyparquet: resolve('hyparquet'),
        compressors: resolve('hyparquet-compressors'),
      },
      resourceLimits: { maxOldGenerationSizeMb: MOST_MEGABYTES },
    });
    this.thread.on('message', (message: Message) => {
      if ('part' in message) void this.send(message);
      else if ('problem' in message) this.fail(message.problem);
      else this.asking?.resolve(message.result);
    });
    this.thread.on('error', (error: NodeJS.ErrnoException) =>
      this.fail(
        error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'it asks for more memory than any table needs' : damageOf(error),
      ),
    );
    this.thread.on('exit', () => this.fail('it broke the reader off'));
  }

  /** What the file says of itself. */
  metadata(): Promise<FileMetaData> {
    return this.ask({});
  }

  /** Values of a column, of rows that lie in one group. */
  column(name: string, rowStart: number, rowEnd: number): Promise<unknown[]> {
    return this.ask({ column: name, rowStart, rowEnd });
  }

  close(): void {
    void this.thread.terminate();
  }

  /** One thing at a time. @throws Error with what is wrong with the file */
  private async ask<T>(request: object): Promise<T> {
    const timer = setTimeout(() => {
      this.fail('it does not come to an end');
      this.close();
    }, LONGEST_MS);
    try {
      return await new Promise<T>((resolve, reject) => {
        this.asking = { resolve: resolve as (result: unknown) => void, reject };
        this.thread.postMessage(request);
      });
    } finally {
      clearTimeout(timer);
      this.asking = null;
    }
  }

  private fail(problem: string): void {
    this.asking?.reject(new Error(problem));
  }

  private async send({ part, from, to }: Asked): Promise<void> {
    try {
      const bytes = await this.source.slice(from, to);
      const copy = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer;
      this.thread.postMessage({ part, bytes: copy }, [copy]);
    } catch (error) {
      this.thread.postMessage({ part, problem: damageOf(error) });
    }
  }
}
