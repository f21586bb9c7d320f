import { describe, expect, it } from 'vitest';
import { makeSnapshot } from '$lib/testing/snapshot';
import { snapshotAnswer } from '$lib/server/market';
import { snapshotOfAnswer } from './snapshot';

describe('a snapshot over the wire', () => {
  it('comes to the page as it lies on the server, NaN included', () => {
    const loaded = makeSnapshot();
    loaded.slices[0]!.call.bid[2] = NaN;
    loaded.slices[2]!.fit = { ...loaded.slices[2]!.fit, curve: null, atmVol: NaN };
    const { asof: _asof, ...measures } = loaded.measures;
    const answer = snapshotAnswer(loaded, {
      snapshot: { symbol: loaded.symbol, asof: loaded.instant, price: loaded.price, slices: loaded.slices },
      fits: loaded.slices.map((slice) => slice.fit),
      measures: { ...measures, symbol: loaded.symbol, asof: new Date(loaded.instant), method: 1 } as never,
    });
    const back = snapshotOfAnswer(JSON.parse(JSON.stringify(answer)));
    expect(back.slices).toEqual(loaded.slices);
    expect([back.symbol, back.asof, back.instant, back.price]).toEqual(['TEST', loaded.asof, loaded.instant, 100]);
    expect([back.kind, back.exercise]).toEqual(['index', 'european']);
    expect(back.measures.iv30).toBe(loaded.measures.iv30);
  });
});
