import type { MessagePort } from 'node:worker_threads';
import type { TableRow } from '../table';
import type { Opening } from './open';

/** What a thread that reads a file is given. The file stays with the caller, who is asked for its bytes. */
export interface ReadTask {
  port: MessagePort;
  opening: Opening;
  /** Bytes of the file. */
  size: number;
  /** Longer cells are cut, by whoever only looks at a file. */
  longestCell?: number;
}

/** What the thread says: it asks for bytes, of a part or the next of a stream from the beginning, or has rows. */
export type FromReader =
  | { asked: number; from: number; to: number }
  | { asked: number; stream: number }
  | { rows: TableRow[] };

/** Messages to it: bytes (null at the end), a failure to get them, or whether to go on. */
export type ToReader =
  | { asked: number; bytes: Uint8Array | null }
  | { asked: number; isLost: true }
  | { goOn: boolean };

/** How reading ended: with the file, or with what is wrong with it. */
export type ReadEnd = { problem: string | null };
