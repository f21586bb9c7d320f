import { borrowedCurve, PLAIN_BORROW } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { borrowedWords, fitLine } from '$lib/formats';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { borrowSentence, enclosedBy } from './borrow';

const snapshot = makeSnapshot();
const { values } = makeValued(snapshot);
const slice = snapshot.slices[1]!;

describe('a curve that might be borrowed', () => {
  it('is counted where bid and ask enclose it', () => {
    const own = enclosedBy(slice, values[1]!, slice.fit.curve!);
    expect(own.inside).toBe(own.of);
    const shifted = borrowedCurve(slice.fit.curve!, slice.fit, { ...PLAIN_BORROW, volShift: 0.03 });
    expect(enclosedBy(slice, values[1]!, shifted).inside).toBe(0);
    // A tilt meets the quotes near the money only.
    const tilted = borrowedCurve(slice.fit.curve!, slice.fit, { ...PLAIN_BORROW, slope: 0.004 });
    const { inside, of } = enclosedBy(slice, values[1]!, tilted);
    expect(inside).toBeGreaterThan(0);
    expect(inside).toBeLessThan(of);
  });
  it('is said with what the own one does', () => {
    const said = borrowSentence(
      { source: 'MRX40' },
      '2031-05-15',
      { inside: 11, of: 14 },
      { inside: 14, of: 14 },
      false,
    );
    expect(said.lead).toBe('MRX40 15 May lies inside 11 of 14 quotes');
    expect(said.rest).toBe('(the own curve: 14 of 14 quotes). As adjusted it has butterfly arbitrage.');
    expect(borrowSentence({ source: 'X' }, null, null, null, true).lead).toBe('X lends nothing here.');
  });
  it('is marked by its source and what was changed', () => {
    const borrowed = {
      ...PLAIN_BORROW,
      ...{ source: 'MRX40', sourceExpiry: null, takenFrom: '2031-05-15', isArbitrageFree: true, volShift: 0.012 },
    };
    expect(borrowedWords(borrowed)).toBe('curve borrowed from MRX40 15 May, +1.20 points');
    expect(borrowedWords({ ...borrowed, volShift: 0, isArbitrageFree: false })).toContain(
      '; it has butterfly arbitrage',
    );
    expect(fitLine({ ...slice.fit, borrowed })).toBe('borrowed from MRX40 15 May');
  });
});
