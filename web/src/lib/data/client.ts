import type { Aside, Basis, ExpiryFit, Sample } from '@umwelt/core';
import * as Comlink from 'comlink';
import type { QuoteSide } from '$lib/address';
import { unpackSlices } from './block';
import type { ChainWorker, QuotesLook, SnapshotKey } from './chain.worker';
import type { ComparedSide, ContractFuture, FutureRequest, StraddleHedge } from './odds';
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

const names = new WeakMap<LoadedSnapshot, SnapshotKey>();
let named = 0;

/** The name of a snapshot in the worker: each that is loaded or fitted again has its own. */
function nameOf(snapshot: LoadedSnapshot): SnapshotKey {
  const name = names.get(snapshot) ?? `${snapshot.symbol} ${snapshot.asof} ${++named}`;
  names.set(snapshot, name);
  return name;
}

/** Hands a snapshot to the worker before it is asked for. */
export function prepareSnapshot(snapshot: LoadedSnapshot): Promise<void> {
  return chainWorker().load(nameOf(snapshot), snapshot);
}

/** The snapshot with one expiry fitted again without the quotes that are set aside; null when the worker lost it. */
export async function refitSnapshot(
  snapshot: LoadedSnapshot,
  at: number,
  aside: readonly Aside[],
): Promise<LoadedSnapshot | null> {
  const name = `${snapshot.symbol} ${snapshot.asof} ${++named}`;
  const fit = await chainWorker().refit(nameOf(snapshot), name, at, [...aside]);
  if (!fit) return null;
  const refitted = { ...snapshot, slices: snapshot.slices.with(at, { ...snapshot.slices[at]!, fit }) };
  names.set(refitted, name);
  return refitted;
}

/** What contradicts itself in a snapshot that was valued; null when the worker does not hold it any more. */
export const lookThrough = (snapshot: LoadedSnapshot): Promise<QuotesLook | null> =>
  chainWorker().look(nameOf(snapshot));

/** The same of a moment that the server holds: the worker fetches its quotes for itself. */
export const lookAt = (symbol: string, asof: string): Promise<QuotesLook> => chainWorker().lookAt(symbol, asof);

/** Lets the worker forget its snapshots, after the data have changed; those that follow are handed over anew. */
export function forgetSnapshots(): void {
  worked.clear();
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

/** What was worked out for a snapshot, by basis and quotes. */
interface Worked {
  terms: PricingTerms;
  by: Map<string, Promise<ValuedSlice[]>>;
}

/** The snapshot in view and those beside it: six bases of a large one take megabytes. */
const MOST_WORKED = 3;
const worked = new Map<LoadedSnapshot, Worked>();

/** Values of a snapshot under a basis, from the worker; what was worked out is kept while its terms are the same. */
export function valueSnapshot(
  snapshot: LoadedSnapshot,
  basis: Basis,
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<ValuedSlice[]> {
  const found = worked.get(snapshot);
  const known = found?.terms === terms ? found : { terms, by: new Map<string, Promise<ValuedSlice[]>>() };
  worked.delete(snapshot);
  worked.set(snapshot, known);
  for (const oldest of worked.keys()) if (worked.size > MOST_WORKED) worked.delete(oldest);
  const name = `${basis} ${quotes}`;
  let values = known.by.get(name);
  if (!values) {
    values = workOut(snapshot, basis, terms, quotes);
    known.by.set(name, values);
    // What failed is asked for again.
    values.catch(() => known.by.delete(name));
  }
  return values;
}

async function workOut(
  snapshot: LoadedSnapshot,
  basis: Basis,
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<ValuedSlice[]> {
  const worker = chainWorker();
  const key = nameOf(snapshot);
  let blocks = await worker.value(key, basis, terms, quotes);
  if (!blocks) {
    await worker.load(key, snapshot);
    blocks = await worker.value(key, basis, terms, quotes);
  }
  if (!blocks) throw new Error('The worker lost the snapshot. Reload the page.');
  return unpackSlices(
    blocks.values,
    blocks.vols,
    snapshot.slices.map((slice) => slice.strike.length),
  );
}

/** Asks the worker of a snapshot that was valued; what it lost is handed over again. */
async function askOf<T>(snapshot: LoadedSnapshot, work: (key: SnapshotKey) => Promise<T | null>): Promise<T | null> {
  const key = nameOf(snapshot);
  const answer = await work(key);
  if (answer !== null) return answer;
  await chainWorker().load(key, snapshot);
  return work(key);
}

/** One side of an expiry under every basis. */
export function compareBases(
  snapshot: LoadedSnapshot,
  at: number,
  side: 'call' | 'put',
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<ComparedSide | null> {
  return askOf(snapshot, (key) => chainWorker().compare(key, at, side, terms, quotes));
}

/** Odds that a contract gains or loses by coming closes; null where the basis has no vol for it. */
export function followContract(
  snapshot: LoadedSnapshot,
  request: FutureRequest,
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<ContractFuture | null> {
  return askOf(snapshot, (key) => chainWorker().future(key, request, terms, quotes));
}

/** The hedge of a sold straddle by prices; null where a vol is missing. */
export function hedgeStraddle(
  snapshot: LoadedSnapshot,
  at: number,
  index: number,
  basis: Basis,
  terms: PricingTerms,
  quotes: QuoteSide,
  prices: number[],
): Promise<StraddleHedge | null> {
  return askOf(snapshot, (key) => chainWorker().hedge(key, at, index, basis, terms, quotes, prices));
}
