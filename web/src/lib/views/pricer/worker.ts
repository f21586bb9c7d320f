import * as Comlink from 'comlink';
import type { PricerWorker } from './pricer.worker';

let remote: Comlink.Remote<PricerWorker> | null = null;

/** The worker that prices contracts; started when it is first asked for. */
export function pricerWorker(): Comlink.Remote<PricerWorker> {
  remote ??= Comlink.wrap<PricerWorker>(
    new Worker(new URL('./pricer.worker.ts', import.meta.url), { type: 'module', name: 'pricer' }),
  );
  return remote;
}
