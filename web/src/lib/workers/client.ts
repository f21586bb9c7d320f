import type { Aside, Basis, ExpiryFit, Sample } from '@umwelt/core';
import * as Comlink from 'comlink';
import type { QuoteSide } from '$lib/state/context';
import { unpackSlices } from './block';
import type { ChainWorker, QuotesLook } from './chain.worker';
import type { PastTerms, PricingTerms } from './pricing';
import type { LoadedSnapshot, ValuedSlice } from './snapshot';

let remote: Comlink.Remote<ChainWorker> | null = null;

/** The worker that values chains; started when it is first asked for. */
function chainWorker(): Comlink.Remote<ChainWorker> {
  remote ??= Comlink.wrap<ChainWorker>(
    new Worker(new URL('./chain.worker.ts', import.meta.url), { type: 'module', name: 'chain' }),
  );
  return remote;
}

/** Hands a snapshot to the worker before it is asked for. */
export function prepareSnapshot(snapshot: LoadedSnapshot): Promise<void> {
  return chainWorker().load(snapshot);
}

/** The snapshot with one expiry fitted again without the quotes that are set aside; null when the worker lost it. */
export async function refitSnapshot(
  snapshot: LoadedSnapshot,
  at: number,
  aside: readonly Aside[],
): Promise<LoadedSnapshot | null> {
  const fit = await chainWorker().refit({ symbol: snapshot.symbol, asof: snapshot.asof }, at, [...aside]);
  return fit && { ...snapshot, slices: snapshot.slices.with(at, { ...snapshot.slices[at]!, fit }) };
}

/** What contradicts itself in a snapshot that was valued; null when the worker does not hold it any more. */
export const lookThrough = ({ symbol, asof }: Pick<LoadedSnapshot, 'symbol' | 'asof'>): Promise<QuotesLook | null> =>
  chainWorker().look({ symbol, asof });

/** The same of a moment that the server holds: the worker fetches its quotes for itself. */
export const lookAt = (symbol: string, asof: string): Promise<QuotesLook> => chainWorker().lookAt(symbol, asof);

/** Lets the worker forget its snapshots, after the data have changed; those that follow are handed over anew. */
export function forgetSnapshots(): void {
  void remote?.forget();
}

/** Paths of the past to an expiry, drawn by the worker; null where none can be. */
export function drawSample(
  { kind, exercise, price }: Pick<LoadedSnapshot, 'kind' | 'exercise' | 'price'>,
  fit: ExpiryFit,
  past: PastTerms,
): Promise<Sample | null> {
  return chainWorker().sample({ kind, exercise, price }, fit, past);
}

/** Values of a snapshot under a basis, from the worker. */
export async function valueSnapshot(
  snapshot: LoadedSnapshot,
  basis: Basis,
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<ValuedSlice[]> {
  const worker = chainWorker();
  const key = { symbol: snapshot.symbol, asof: snapshot.asof };
  let blocks = await worker.value(key, basis, terms, quotes);
  if (!blocks) {
    await worker.load(snapshot);
    blocks = await worker.value(key, basis, terms, quotes);
  }
  if (!blocks) throw new Error('The worker lost the snapshot. Reload the page.');
  return unpackSlices(
    blocks.values,
    blocks.vols,
    snapshot.slices.map((slice) => slice.strike.length),
  );
}
