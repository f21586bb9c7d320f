/** Reads a file as a table for whoever has it, in a thread that can be ended: see apart.ts. */
import type { FileSource } from '../source';
import { TableError } from '../table';
import type { FromReader, ReadEnd, ReadTask, ToReader } from './messages';
import { openTable } from './open';

export default async function read({ port, opening, size, longestCell }: ReadTask): Promise<ReadEnd> {
  const waiting = new Map<number, { resolve: (bytes: Buffer | null) => void; reject: (error: Error) => void }>();
  let asked = 0;
  let streams = 0;
  let isWanted = true;
  let wake = () => {};
  const say = (message: FromReader) => port.postMessage(message);
  port.on('message', (message: ToReader) => {
    if ('goOn' in message) {
      isWanted &&= message.goOn;
      wake();
      return;
    }
    const asking = waiting.get(message.asked);
    waiting.delete(message.asked);
    if ('isLost' in message) asking?.reject(new Error('the file is not to be had'));
    else asking?.resolve(message.bytes && Buffer.from(message.bytes.buffer));
  });
  const ask = (what: { from: number; to: number } | { stream: number }) =>
    new Promise<Buffer | null>((resolve, reject) => {
      waiting.set(++asked, { resolve, reject });
      say({ asked, ...what });
    });
  const source: FileSource = {
    name: '',
    size,
    slice: async (from, to) => (await ask({ from, to })) ?? Buffer.alloc(0),
    stream: async function* () {
      const stream = ++streams;
      for (;;) {
        const bytes = await ask({ stream });
        if (!bytes) return;
        yield bytes;
      }
    },
  };
  try {
    const reader = await openTable(source, opening);
    for await (const batch of reader.batches()) {
      if (!('rows' in batch)) continue;
      const told = new Promise<void>((resolve) => {
        wake = resolve;
      });
      say({ rows: longestCell === undefined ? batch.rows : batch.rows.map((row) => cut(row, longestCell)) });
      if (isWanted) await told;
      if (!isWanted) break;
    }
    return { problem: null };
  } catch (error) {
    if (error instanceof TableError) return { problem: error.message };
    throw error;
  } finally {
    port.close();
  }
}

function cut({ number, cells }: { number: number; cells: string[] }, longest: number) {
  return { number, cells: cells.map((text) => (text.length > longest ? `${text.slice(0, longest)}…` : text)) };
}
