import { borrowFit, PLAIN_BORROW } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import {
  arbitrageOf,
  arbitrageOfCurves,
  arbitrageSentence,
  arbitrageTable,
  placeWords,
  quotedExpiries,
} from './arbitrage';

describe('arbitrage in view', () => {
  it('is none in quotes of a surface, and the sentence says so of quotes and curves', () => {
    const shown = makeValued(makeSnapshot());
    const found = arbitrageOf(shown);
    expect(found).toEqual([]);
    expect(arbitrageSentence(shown, found)).toEqual({
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
    const shown = makeValued(snapshot);
    const found = arbitrageOf(shown);
    const butterfly = found.find(({ kind }) => kind === 'butterfly')!;
    expect(placeWords(butterfly)).toBe('17 Apr 92 / 94 / 96 puts');
    expect(butterfly.afterSpread).toBeGreaterThan(0);
    expect(arbitrageSentence(shown, found).lead).toMatch(/contradict the others/);
    const { columns, rows } = arbitrageTable(found);
    expect(rows[0]).toHaveLength(columns.length);
    expect(found.map(({ afterSpread }) => afterSpread)).toEqual(
      found.map(({ afterSpread }) => afterSpread).toSorted((a, b) => b - a),
    );
  });
  it('passes over expiries that are set aside', () => {
    const snapshot = makeSnapshot();
    snapshot.slices[0]!.fit.expiryAside = 'broken-forward';
    expect(quotedExpiries(makeValued(snapshot)).map(({ expiry }) => expiry)).toEqual(['2031-04-17', '2031-06-19']);
  });
  it('of curves is looked for where one is borrowed, and told with its strikes and its worth', () => {
    const snapshot = makeSnapshot();
    expect(arbitrageOfCurves({ snapshot })).toEqual([]);
    const { fit } = snapshot.slices[1]!;
    const borrowing = { ...PLAIN_BORROW, source: 'TEST', sourceExpiry: '2031-06-19', curvature: -0.15 };
    const borrowed = borrowFit(fit, [snapshot.slices[2]!.fit], borrowing);
    expect(borrowed.borrowed!.isArbitrageFree).toBe(false);
    snapshot.slices[1]!.fit = borrowed;
    const found = arbitrageOfCurves({ snapshot });
    const [worst] = found.filter(({ kind }) => kind === 'butterfly');
    expect(worst!.expiry).toBe('2031-04-17');
    expect(worst!.afterSpread).toBeCloseTo(worst!.atMid, 12);
    expect(arbitrageTable([], found).rows[0]![0]).toBe('curves');
  });
});
