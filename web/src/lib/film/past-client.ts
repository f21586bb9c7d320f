import * as Comlink from 'comlink';
import type { Frame } from './frame';
import type { Band, SkewBandRequest } from './past';
import type { PastWorker } from './past.worker';

let remote: Comlink.Remote<PastWorker> | null = null;

function pastWorker(): Comlink.Remote<PastWorker> {
  remote ??= Comlink.wrap<PastWorker>(
    new Worker(new URL('./past.worker.ts', import.meta.url), { type: 'module', name: 'past' }),
  );
  return remote;
}

/** Hands frames to the worker, of one underlying only. */
export function addToPast(frames: Frame[]): void {
  void pastWorker().add(frames);
}

/** Lets the worker forget, after the data or the underlying have changed. */
export function forgetPast(): void {
  void remote?.forget();
}

/** The band of the skews of a maturity over some sessions. */
export const skewBandOf = (asofs: string[], request: SkewBandRequest): Promise<Band> =>
  pastWorker().skewBand(asofs, request);

/** The band of the vols at the money over some sessions, by days. */
export const termBandOf = (asofs: string[], days: Float64Array, now: Float64Array): Promise<Band> =>
  pastWorker().termBand(asofs, days, now);
