import { describe, expect, it } from 'vitest';
import { makeSnapshot } from '$lib/testing/snapshot';
import { barsOf } from '$lib/data/measures';
import { pricingTerms, type PricingAsked } from './pricing';

const rows = Array.from({ length: 80 }, (_, i) => {
  const close = 100 + Math.sin(i);
  const date = new Date(Date.UTC(2030, 11, 1 + i)).toISOString().slice(0, 10);
  return { date, asof: null, open: close, high: close + 1, low: close - 1, close };
});
const bars = barsOf(rows, []);
const asked: PricingAsked = {
  manual: { kind: 'vol', value: 0.2 },
  realizedBy: 'close',
  realizedWindow: 20,
  pastLaw: 'lognormal',
  drift: 'forward',
};

describe('the terms of a moment', () => {
  const snapshot = makeSnapshot();
  it('are the same object while nothing about them changes, so that what depends on them is kept', () => {
    const terms = pricingTerms(snapshot, bars, 79, asked);
    expect(pricingTerms(snapshot, bars, 79, asked)).toBe(terms);
    expect(pricingTerms(snapshot, bars, 78, asked)).not.toBe(terms);
    const wider = pricingTerms(snapshot, bars, 79, { ...asked, realizedWindow: 60 });
    expect(wider.realizedVols[0]).not.toBe(terms.realizedVols[0]);
    expect(pricingTerms(makeSnapshot(), bars, 79, asked)).not.toBe(terms);
  });
  it('have a historical vol for each expiry, as long as it is away where that is asked', () => {
    const terms = pricingTerms(snapshot, bars, 79, { ...asked, realizedWindow: 0 });
    expect(terms.realizedVols).toHaveLength(snapshot.slices.length);
    expect(new Set(terms.realizedVols).size).toBe(snapshot.slices.length);
    expect(terms.past).toBeNull();
    expect(pricingTerms(snapshot, bars, 79, { ...asked, pastLaw: 'blocks' }).past).toMatchObject({
      sampling: 'blocks',
    });
  });
});
