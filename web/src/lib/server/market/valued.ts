import { availableParallelism } from 'node:os';
import type { Piscina } from 'piscina';
import { openPool } from '../threads';
import type { ValuedTask } from './valuing';

const THREADS = availableParallelism();
const MOST_MEGABYTES = 600;

let opened: Piscina | null = null;
const pool = () => (opened ??= openPool('market/valued', THREADS, MOST_MEGABYTES, { isAwaited: true }));

/** A snapshot valued in a thread, as the JSON that is sent: requests for something else need not wait for it. */
export function valued(task: ValuedTask): Promise<Uint8Array> {
  return pool().run(task) as Promise<Uint8Array>;
}
