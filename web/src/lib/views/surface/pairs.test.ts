import { curveVol } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { pastMoment } from '$lib/film/past';
import { pairsOverTime } from '$lib/film/pairs';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { curvePairs, pairSentence, pairsTable, pastPlace, snapshotPairs } from './pairs';

const snapshot = makeSnapshot();
const { values } = makeValued(snapshot);
const fits = snapshot.slices.map(({ fit }) => fit);

describe('pairs of a snapshot', () => {
  it('in listed strikes have the mids of their quotes', () => {
    const [, row] = snapshotPairs(snapshot, values, { unit: 'steps', size: 2 });
    // The forward lies over 100.3: the second strike under it is 98, the second over it 104.
    expect([row!.putStrike, row!.callStrike, row!.isQuoted]).toEqual([98, 104, true]);
    const slice = snapshot.slices[1]!;
    const at = slice.strike.indexOf(98);
    expect(row!.putPrice).toBeCloseTo((slice.put.bid[at]! + slice.put.ask[at]!) / 2, 12);
    expect(row!.putVol).toBe(values[1]!.putVols.mid[at]);
    expect(row!.ratio).toBeCloseTo(row!.putPrice / row!.callPrice, 12);
    expect(snapshotPairs(snapshot, values, { unit: 'steps', size: 50 })).toEqual([]);
  });
  it('fall back on the curve where a side has no vol', () => {
    const blind = values.map((one) => ({
      ...one,
      putVols: { ...one.putVols, reason: one.putVols.reason.map(() => 3) },
    }));
    const [, row] = snapshotPairs(snapshot, blind, { unit: 'steps', size: 2 });
    expect(row!.isQuoted).toBe(false);
    expect(row!.putVol).toBeCloseTo(curveVol(fits[1]!.curve!, Math.log(98 / fits[1]!.forward)), 12);
  });
  it('in per cent and deviations are of the curve, also without quotes', () => {
    const rows = snapshotPairs(snapshot, values, { unit: 'percent', size: 5 });
    expect(rows).toEqual(curvePairs(fits, { unit: 'percent', size: 5 }));
    expect(rows[0]!.putStrike).toBeCloseTo(0.95 * fits[0]!.forward, 10);
    // In listed strikes where these are known: the second under and over the forward.
    expect(curvePairs(fits, { unit: 'steps', size: 2 })).toEqual([]);
    const near = fits.map((fit, i) => ({ ...fit, near: [...snapshot.slices[i]!.strike] }));
    const [first] = curvePairs(near, { unit: 'steps', size: 2 });
    expect([first!.putStrike, first!.callStrike]).toEqual([98, 104]);
    expect(first!.putVol).toBeCloseTo(curveVol(fits[0]!.curve!, Math.log(98 / fits[0]!.forward)), 12);
  });
  it('are followed through time at their place, and not where the expiries do not reach', () => {
    const frame = {
      symbol: 'TEST',
      asof: '',
      instant: 0,
      expiries: fits.map((fit) => ({ ...fit, lowest: 1, highest: 2 })),
    };
    const moments = [pastMoment(frame), pastMoment({ ...frame, expiries: [] })];
    for (const choice of [
      { unit: 'percent', size: 5 },
      { unit: 'deviations', size: 1.5 },
    ] as const) {
      const row = curvePairs(fits, choice)[1]!;
      const past = pairsOverTime(moments, pastPlace(row, choice));
      expect(past.putVol[0]).toBeCloseTo(row.putVol, 9);
      expect(past.callVol[0]).toBeCloseTo(row.callVol, 9);
      expect(past.ratio[0]).toBeCloseTo(row.ratio, 7);
      expect(past.ratio[1]).toBeNaN();
    }
    const near = {
      ...frame,
      expiries: frame.expiries.map((one, i) => ({ ...one, near: [...snapshot.slices[i]!.strike] })),
    };
    const choice = { unit: 'steps', size: 2 } as const;
    const [early, row] = curvePairs(near.expiries, choice);
    const listed = pairsOverTime([pastMoment(near), moments[0]!], pastPlace(row!, choice));
    expect([listed.putVol[0], listed.callVol[0], listed.ratio[0]]).toEqual([row!.putVol, row!.callVol, row!.ratio]);
    // Without the strikes there is nothing to say; between two expiries the ratio stands between theirs.
    expect(listed.putVol[1]).toBeNaN();
    const between = pairsOverTime([pastMoment(near)], {
      axis: 'steps',
      size: 2,
      years: (early!.years + row!.years) / 2,
    });
    expect(between.ratio[0]).toBeCloseTo((early!.ratio + row!.ratio) / 2, 12);
    expect(between.putVol[0]).toBeCloseTo(
      Math.sqrt((early!.putVol ** 2 * early!.years + row!.putVol ** 2 * row!.years) / (early!.years + row!.years)),
      12,
    );
    const far = pairsOverTime(moments, { axis: 'forward', put: 95, call: 105, years: 9 });
    expect(far.putVol[0]).toBeNaN();
  });
  it('are said in a sentence and taken away', () => {
    const rows = curvePairs(fits, { unit: 'percent', size: 5 });
    const said = pairSentence(rows[1]!, 0.25, 200);
    expect(said.lead).toMatch(/^17 Apr: the put trades \d\.\d points over the call as far out,$/);
    expect(said.rest).toMatch(/costs \d\.\d\d times the other\. The gap was lower in 25 % of 200 sessions\.$/);
    expect(pairSentence(null, NaN, 0).lead).toBe('No pair.');
    const table = pairsTable(rows, snapshot);
    expect(table.rows[1]!.slice(1, 5)).toEqual(['TEST', '2031-04-17', 'pm', fits[1]!.days]);
    expect(table.rows[1]!.at(-1)).toBe('curve');
  });
});
