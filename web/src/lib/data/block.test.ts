import { describe, expect, it } from 'vitest';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { packValues, packVols, unpackSlices } from './block';

describe('blocks', () => {
  it('come apart as they were put together, slices of different lengths and NaN included', () => {
    const snapshot = makeSnapshot();
    snapshot.slices[1]!.call.bid[4] = 0;
    const { values } = makeValued(snapshot);
    const lengths = snapshot.slices.map((slice) => slice.strike.length);
    const block = packValues(values.map(({ call, put }) => ({ call, put })));
    const vols = packVols(values.map(({ callVols, putVols }) => ({ call: callVols, put: putVols })));
    expect(block).toHaveLength(2 * 10 * lengths.reduce((sum, length) => sum + length));
    expect(unpackSlices(block, vols, lengths)).toEqual(values);
    expect(values[1]!.callVols.reason[4]).toBeGreaterThan(0);
  });
  it('of nothing is nothing', () => {
    expect(unpackSlices(packValues([]), packVols([]), [])).toEqual([]);
  });
});
