import * as Comlink from 'comlink';
import type { FinderWorker } from './finder.worker';

let remote: Comlink.Remote<FinderWorker> | null = null;

/** The worker that looks through the underlying in view; started when it is first asked for. */
export function finderWorker(): Comlink.Remote<FinderWorker> {
  remote ??= Comlink.wrap<FinderWorker>(
    new Worker(new URL('./finder.worker.ts', import.meta.url), { type: 'module', name: 'finder' }),
  );
  return remote;
}
