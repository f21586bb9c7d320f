import { borrowFit, PLAIN_BORROW } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { contradictionsOf, quotedExpiries, type LoadedSnapshot } from '$lib/data';
import { arbitrageSentence, arbitrageTable, placeWords } from './arbitrage';

const volsOf = (snapshot: LoadedSnapshot) =>
  makeValued(snapshot).values.map(({ callVols, putVols }) => ({ call: callVols, put: putVols }));
const contradictions = (snapshot: LoadedSnapshot) => contradictionsOf(snapshot, volsOf(snapshot));

describe('arbitrage in view', () => {
  it('is none in quotes of a surface, and the sentence says so of quotes and curves', () => {
    const found = contradictions(makeSnapshot());
    expect(found).toEqual({ ofQuotes: [], ofCurves: [], folded: 0, crossed: 0 });
    expect(arbitrageSentence(found)).toEqual({
      lead: 'Nothing to be earned after the spread.',
      rest: 'The curves have no butterfly or calendar arbitrage.',
    });
  });
  it('names the strikes of a put that is too dear, and what can be earned', () => {
    const snapshot = makeSnapshot();
    const { put, strike } = snapshot.slices[1]!;
    const at = strike.indexOf(94);
    put.bid[at]! += 1;
    put.ask[at]! += 1;
    const found = contradictions(snapshot);
    const butterfly = found.ofQuotes.find(({ kind }) => kind === 'butterfly')!;
    expect(placeWords(butterfly)).toBe('17 Apr 92 / 94 / 96 puts');
    expect(butterfly.afterSpread).toBeGreaterThan(0);
    expect(arbitrageSentence(found).lead).toMatch(/contradict the others/);
    const { columns, rows } = arbitrageTable(found);
    expect(rows[0]).toHaveLength(columns.length);
    const earned = found.ofQuotes.map(({ afterSpread }) => afterSpread);
    expect(earned).toEqual(earned.toSorted((a, b) => b - a));
  });
  it('passes over expiries that are set aside', () => {
    const snapshot = makeSnapshot();
    snapshot.slices[0]!.fit.expiryAside = 'broken-forward';
    expect(quotedExpiries(snapshot, volsOf(snapshot)).map(({ expiry }) => expiry)).toEqual([
      '2031-04-17',
      '2031-06-19',
    ]);
  });
  it('of curves is looked for where one is borrowed, and told with its strikes and its worth', () => {
    const snapshot = makeSnapshot();
    expect(contradictions(snapshot).ofCurves).toEqual([]);
    const { fit } = snapshot.slices[1]!;
    const borrowing = { ...PLAIN_BORROW, source: 'TEST', sourceExpiry: '2031-06-19', curvature: -0.15 };
    const borrowed = borrowFit(fit, [snapshot.slices[2]!.fit], borrowing);
    expect(borrowed.borrowed!.isArbitrageFree).toBe(false);
    snapshot.slices[1]!.fit = borrowed;
    const { ofCurves, folded } = contradictions(snapshot);
    expect(folded).toBe(1);
    const [worst] = ofCurves.filter(({ kind }) => kind === 'butterfly');
    expect(worst!.expiry).toBe('2031-04-17');
    expect(worst!.afterSpread).toBeCloseTo(worst!.atMid, 12);
    const none = { ofQuotes: [], ofCurves, folded, crossed: 0 };
    expect(arbitrageTable(none).rows[0]![0]).toBe('curves');
    expect(arbitrageSentence(none).rest).toContain('Of the curves 1 have a butterfly arbitrage');
  });
});
