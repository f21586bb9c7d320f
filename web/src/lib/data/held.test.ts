import type { ExpiryFit } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { makeSnapshot } from '$lib/testing/snapshot';
import { HeldSnapshots, type Holding } from './held';
import type { PricingTerms } from './pricing';
import type { LoadedSnapshot } from './snapshot';

/** Snapshots in a worker that keeps what it is given, and says nothing of the values. */
function holding() {
  const held = new Map<string, unknown>();
  const loaded: unknown[] = [];
  const worker: Holding = {
    load: (key, snapshot) => {
      loaded.push(snapshot);
      held.set(key, snapshot);
      return Promise.resolve();
    },
    value: (key) => Promise.resolve(held.has(key) ? { values: new Float64Array(), vols: new Float64Array() } : null),
    refit: (_key, name) => {
      held.set(name, 'refitted');
      return Promise.resolve({} as ExpiryFit);
    },
  };
  return { snapshots: new HeldSnapshots(() => worker), loaded, held };
}

const terms = {} as PricingTerms;
const bare = (): LoadedSnapshot => ({ ...makeSnapshot(), slices: [] });

describe('snapshots in the worker', () => {
  it('are handed over once', async () => {
    const { snapshots, loaded } = holding();
    const snapshot = bare();
    await snapshots.value(snapshot, 'curve', terms, 'mid');
    await snapshots.value(snapshot, 'level', terms, 'mid');
    expect(loaded).toEqual([snapshot]);
  });

  it('of one moment are not taken for each other, where the old one is asked of after the data have changed', async () => {
    const { snapshots, loaded, held } = holding();
    const [old, fresh] = [bare(), bare()];
    await snapshots.value(old, 'curve', terms, 'mid');
    snapshots.forget();
    held.clear();
    await snapshots.value(old, 'level', terms, 'mid');
    await snapshots.value(fresh, 'curve', terms, 'mid');
    expect(loaded).toHaveLength(3);
    expect(loaded[2]).toBe(fresh);
  });

  it('are fitted again under a name of their own, which the worker holds', async () => {
    const { snapshots, loaded } = holding();
    const snapshot = makeSnapshot();
    const refitted = await snapshots.refit(snapshot, 0, []);
    expect(snapshots.nameOf(refitted!)).not.toBe(snapshots.nameOf(snapshot));
    await snapshots.ask(refitted!, (key) => Promise.resolve(key || null));
    expect(loaded).toEqual([]);
  });

  it('keep the values of the last three, and ask again for what failed', async () => {
    const { snapshots, held } = holding();
    const many = [bare(), bare(), bare(), bare()];
    const first = snapshots.value(many[0]!, 'curve', terms, 'mid');
    await first;
    expect(snapshots.value(many[0]!, 'curve', terms, 'mid')).toBe(first);
    for (const one of many.slice(1)) await snapshots.value(one, 'curve', terms, 'mid');
    expect(snapshots.value(many[0]!, 'curve', terms, 'mid')).not.toBe(first);

    const load = held.set.bind(held);
    held.set = () => held;
    const lost = bare();
    await expect(snapshots.value(lost, 'curve', terms, 'mid')).rejects.toThrow('lost the snapshot');
    held.set = load;
    await expect(snapshots.value(lost, 'curve', terms, 'mid')).resolves.toEqual([]);
  });
});
