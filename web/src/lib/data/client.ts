import type { Aside, Basis, ExpiryFit, Sample, Side } from '@umwelt/core';
import * as Comlink from 'comlink';
import type { QuoteSide } from '$lib/address';
import type { ChainWorker, QuotesLook } from './chain.worker';
import { HeldSnapshots } from './held';
import type { ComparedSide, ContractFuture, FutureRequest, StraddleHedge } from './odds';
import type { PastTerms, PricingTerms } from './pricing';
import type { StructureAnswer, StructureRequest } from './structure';
import type { LoadedSnapshot } from './snapshot';

let remote: Comlink.Remote<ChainWorker> | null = null;

/** The worker that values chains; started when it is first asked for. */
function chainWorker(): Comlink.Remote<ChainWorker> {
  remote ??= Comlink.wrap<ChainWorker>(
    new Worker(new URL('./chain.worker.ts', import.meta.url), { type: 'module', name: 'chain' }),
  );
  return remote;
}

const held = new HeldSnapshots(chainWorker);

/** Hands a snapshot to the worker before it is asked for. */
export function prepareSnapshot(snapshot: LoadedSnapshot): Promise<void> {
  return held.prepare(snapshot);
}

/** The snapshot with one expiry fitted again without the quotes that are set aside; null when the worker lost it. */
export const refitSnapshot = (snapshot: LoadedSnapshot, at: number, aside: readonly Aside[]) =>
  held.refit(snapshot, at, aside);

/** What contradicts itself in a snapshot that was valued; null when the worker does not hold it any more. */
export const lookThrough = (snapshot: LoadedSnapshot): Promise<QuotesLook | null> =>
  chainWorker().look(held.nameOf(snapshot));

/** The same of a moment that the server holds: the worker fetches its quotes for itself. */
export const lookAt = (symbol: string, asof: string): Promise<QuotesLook> => chainWorker().lookAt(symbol, asof);

/** Lets the worker forget its snapshots, after the data have changed; those that follow are handed over again. */
export function forgetSnapshots(): void {
  held.forget();
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

/** Values of a snapshot under a basis, from the worker; what was computed is kept while its terms are the same. */
export const valueSnapshot = (snapshot: LoadedSnapshot, basis: Basis, terms: PricingTerms, quotes: QuoteSide) =>
  held.value(snapshot, basis, terms, quotes);

/** One side of an expiry under every basis. */
export function compareBases(
  snapshot: LoadedSnapshot,
  at: number,
  side: Side,
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<ComparedSide | null> {
  return held.ask(snapshot, (key) => chainWorker().compare(key, at, side, terms, quotes));
}

/** Odds that a contract gains or loses by coming closes; null where the basis has no vol for it. */
export function followContract(
  snapshot: LoadedSnapshot,
  request: FutureRequest,
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<ContractFuture | null> {
  return held.ask(snapshot, (key) => chainWorker().future(key, request, terms, quotes));
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
  return held.ask(snapshot, (key) => chainWorker().hedge(key, at, index, basis, terms, quotes, prices));
}

/** What legs in hand come to. */
export function evaluateStructure(
  snapshot: LoadedSnapshot,
  request: StructureRequest,
  terms: PricingTerms,
  quotes: QuoteSide,
): Promise<StructureAnswer | null> {
  return held.ask(snapshot, (key) => chainWorker().structure(key, request, terms, quotes));
}
