import * as Comlink from 'comlink';
import type { ChainWorker } from './chain.worker';

let remote: Comlink.Remote<ChainWorker> | null = null;

/** The worker that values chains; started when it is first asked for. */
export function chainWorker(): Comlink.Remote<ChainWorker> {
  remote ??= Comlink.wrap<ChainWorker>(
    new Worker(new URL('./chain.worker.ts', import.meta.url), { type: 'module', name: 'chain' }),
  );
  return remote;
}
