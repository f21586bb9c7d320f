import { beforeEach, describe, expect, it, vi } from 'vitest';
import { makeSnapshot } from '$lib/testing/snapshot';
import { forgetSnapshots, valueSnapshot } from './client';
import type { PricingTerms } from './pricing';
import type { LoadedSnapshot } from './snapshot';

/** A worker that keeps what it is given, and says nothing of the values. */
const { loaded, worker } = vi.hoisted(() => {
  const held = new Map<string, unknown>();
  const loaded: unknown[] = [];
  const worker = {
    load: (key: string, snapshot: unknown) => {
      loaded.push(snapshot);
      held.set(key, snapshot);
    },
    value: (key: string) => (held.has(key) ? { values: new Float64Array(), vols: new Float64Array() } : null),
    forget: () => held.clear(),
  };
  return { loaded, worker };
});
vi.mock('comlink', () => ({ wrap: () => worker }));
vi.stubGlobal('Worker', function Worker() {});

const terms = {} as PricingTerms;
const bare = (): LoadedSnapshot => ({ ...makeSnapshot(), slices: [] });

describe('snapshots in the worker', () => {
  beforeEach(() => {
    forgetSnapshots();
    loaded.length = 0;
  });

  it('are handed over once', async () => {
    const snapshot = bare();
    await valueSnapshot(snapshot, 'curve', terms, 'mid');
    await valueSnapshot(snapshot, 'level', terms, 'mid');
    expect(loaded).toEqual([snapshot]);
  });

  it('of one moment are not taken for each other, where the old one is asked of after the data have changed', async () => {
    const [old, fresh] = [bare(), bare()];
    await valueSnapshot(old, 'curve', terms, 'mid');
    forgetSnapshots();
    await valueSnapshot(old, 'level', terms, 'mid');
    await valueSnapshot(fresh, 'curve', terms, 'mid');
    expect(loaded).toHaveLength(3);
    expect(loaded[2]).toBe(fresh);
  });
});
