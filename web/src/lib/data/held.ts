import type { Aside, Basis } from '@umwelt/core';
import type { QuoteSide } from '$lib/address';
import { unpackSlices } from './block';
import type { ChainWorker, SnapshotKey } from './chain.worker';
import type { PricingTerms } from './pricing';
import type { LoadedSnapshot, ValuedSlice } from './snapshot';

/** What of the worker the snapshots in it need, as it is called from the page. */
export type Holding = {
  [K in 'load' | 'value' | 'refit']: (...given: Parameters<ChainWorker[K]>) => Promise<ReturnType<ChainWorker[K]>>;
};

/** What was computed for a snapshot, by basis and quotes. */
interface Worked {
  terms: PricingTerms;
  by: Map<string, Promise<ValuedSlice[]>>;
}

/** The snapshot in view and those beside it: six bases of a large one take megabytes. */
const MOST_WORKED = 3;

/** The snapshots that a worker holds, by names that no two of them share, and what it has computed for them. */
export class HeldSnapshots {
  private readonly names = new WeakMap<LoadedSnapshot, SnapshotKey>();
  private readonly worked = new Map<LoadedSnapshot, Worked>();
  private named = 0;

  /** @param worker gives the worker, started when it is first asked for */
  constructor(private readonly worker: () => Holding) {}

  /** The name of a snapshot in the worker: each that is loaded or fitted again has its own. */
  nameOf(snapshot: LoadedSnapshot): SnapshotKey {
    const name = this.names.get(snapshot) ?? this.newName(snapshot);
    this.names.set(snapshot, name);
    return name;
  }

  private newName({ symbol, asof }: LoadedSnapshot): SnapshotKey {
    return `${symbol} ${asof} ${++this.named}`;
  }

  /** Hands a snapshot over before it is asked for. */
  prepare(snapshot: LoadedSnapshot): Promise<void> {
    return this.worker().load(this.nameOf(snapshot), snapshot);
  }

  /** The snapshot with one expiry fitted again without the quotes that are set aside; null when the worker lost it. */
  async refit(snapshot: LoadedSnapshot, at: number, aside: readonly Aside[]): Promise<LoadedSnapshot | null> {
    const name = this.newName(snapshot);
    const fit = await this.worker().refit(this.nameOf(snapshot), name, at, [...aside]);
    if (!fit) return null;
    const refitted = { ...snapshot, slices: snapshot.slices.with(at, { ...snapshot.slices[at]!, fit }) };
    this.names.set(refitted, name);
    return refitted;
  }

  /** Asks the worker of a snapshot; what it lost is handed over again. */
  async ask<T>(snapshot: LoadedSnapshot, work: (key: SnapshotKey) => Promise<T | null>): Promise<T | null> {
    const key = this.nameOf(snapshot);
    const answer = await work(key);
    if (answer !== null) return answer;
    await this.worker().load(key, snapshot);
    return work(key);
  }

  /** Values of a snapshot under a basis; what was computed is kept while its terms are the same. */
  value(snapshot: LoadedSnapshot, basis: Basis, terms: PricingTerms, quotes: QuoteSide): Promise<ValuedSlice[]> {
    const found = this.worked.get(snapshot);
    const known = found?.terms === terms ? found : { terms, by: new Map<string, Promise<ValuedSlice[]>>() };
    this.worked.delete(snapshot);
    this.worked.set(snapshot, known);
    for (const oldest of this.worked.keys()) if (this.worked.size > MOST_WORKED) this.worked.delete(oldest);
    const name = `${basis} ${quotes}`;
    let values = known.by.get(name);
    if (!values) {
      values = this.workOut(snapshot, basis, terms, quotes);
      known.by.set(name, values);
      // What failed is asked for again.
      values.catch(() => known.by.delete(name));
    }
    return values;
  }

  private async workOut(
    snapshot: LoadedSnapshot,
    basis: Basis,
    terms: PricingTerms,
    quotes: QuoteSide,
  ): Promise<ValuedSlice[]> {
    const blocks = await this.ask(snapshot, (key) => this.worker().value(key, basis, terms, quotes));
    if (!blocks) throw new Error('The worker lost the snapshot. Reload the page.');
    return unpackSlices(
      blocks.values,
      blocks.vols,
      snapshot.slices.map((slice) => slice.strike.length),
    );
  }

  /** Forgets what was computed, after the data have changed. */
  forget(): void {
    this.worked.clear();
  }
}
