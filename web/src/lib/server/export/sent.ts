import type { Piscina } from 'piscina';
import { unlessRefused, type Refusal } from '../api/refusal';
import { openPool } from '../threads';
import { writeSentTable } from './table';
import type { TableTask } from './table.thread';
import type { ExportFormat } from './write';

/** Tables up to this size are written here: handing them to a thread would take longer. */
const SMALL_BYTES = 200_000;
const THREADS = 2;
const MOST_MEGABYTES = 800;

let opened: Piscina | null = null;
const pool = () => (opened ??= openPool('export/table', THREADS, MOST_MEGABYTES));

/** A table that was sent, as a file of another format; ended with the request that wants it. */
export async function sentTable(name: string, format: ExportFormat, body: Buffer, signal: AbortSignal) {
  if (body.length <= SMALL_BYTES) return writeSentTable(name, format, body);
  const task: TableTask = { name, format, body };
  return unlessRefused((await pool().run(task, { signal })) as Uint8Array | Refusal);
}
