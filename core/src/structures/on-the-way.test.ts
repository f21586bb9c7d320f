import { describe, expect, it } from 'vitest';
import { emptySide, type BasisChoice, type ExpiryFit } from '../chain';
import { touchProbability } from '../models';
import { halfOnTheWay, unmoved, type MarketLeg, type MarketStructure } from '.';

const SPOT = 100;
const VOL = 0.2;
const YEARS = 0.25;
const SESSIONS = 63;

const fit = {
  ...{ expiry: '2031-06-12', settlement: 'pm', years: YEARS, sessions: SESSIONS, forward: SPOT, rate: 0, discount: 1 },
  ...{ atmVol: VOL, curve: null, aside: [] },
} as unknown as ExpiryFit;
const STRIKES = Float64Array.of(90, 100, 110);
const slice = {
  expiry: '2031-06-12',
  settlement: 'pm' as const,
  strike: STRIKES,
  call: emptySide(3),
  put: emptySide(3),
  fit,
};
const choice: BasisChoice = { basis: 'level', realizedVol: 0.2, indexVol: NaN };
const leg = (side: 'call' | 'put', index: number, quantity: number): MarketLeg => ({
  ...{ symbol: 'X', expiry: slice.expiry, settlement: 'pm', side, strike: STRIKES[index]!, index, quantity, slice: 0 },
});
const structureOf = (legs: readonly MarketLeg[], more: Partial<MarketStructure> = {}): MarketStructure => ({
  slices: [slice],
  around: { on: { kind: 'equity', exercise: 'european', spot: SPOT }, spot: SPOT, dividends: [], events: [] },
  ...{ legs, ownVols: legs.map(() => VOL), fill: 'mid', choice, scenario: unmoved(SPOT), past: () => null },
  ...more,
});
const by = (found: ReturnType<typeof halfOnTheWay>, basis: string) => found.find((one) => one.basis === basis)!;

describe('half of the most profit on the way', () => {
  it('of what moves with the price alone is what touching its level is, but for closes between', () => {
    // The underlying, with an option that is worth nothing: half of 10 is 105.
    const held: MarketLeg = { underlying: true, quantity: 1 };
    const far = { ...leg('call', 2, 1), strike: 1000 };
    const found = halfOnTheWay(structureOf([far, held]), SPOT, 10);
    const level = by(found, 'level');
    // Closes miss what is touched between them: the level is met at b·e^(0.5826 σ√Δt) (M. Broadie, P. Glasserman and S. Kou 1997).
    const shifted = 105 * Math.exp(0.5826 * VOL * Math.sqrt(YEARS / 42));
    const told = touchProbability(SPOT, shifted, YEARS, 0, VOL);
    expect(Math.abs(level.probability - told)).toBeLessThan(4 * level.error);
    expect(level.error).toBeCloseTo(Math.sqrt((told * (1 - told)) / 4000), 3);
    // The same vol draws the same paths.
    expect(by(found, 'realized').probability).toBe(level.probability);
    expect(by(found, 'own').probability).toBe(level.probability);
    expect(found.map(({ basis }) => basis)).toEqual(['own', 'level', 'realized']);
  });
  it('is likelier than all of it at the end, and the likelier the less moves when something is sold', () => {
    const straddle = [leg('call', 1, -1), leg('put', 1, -1)];
    const calm = { ...choice, realizedVol: 0.1 };
    const found = halfOnTheWay(structureOf(straddle, { choice: calm }), -7.97, 7.97);
    expect(by(found, 'realized').probability).toBeGreaterThan(by(found, 'level').probability + 0.1);
    expect(by(found, 'level').probability).toBeGreaterThan(0.3);
    // What its own quotes say: the mean of a vol of 0.1 and one of 0.3, whose vegas are alike.
    const own = halfOnTheWay({ ...structureOf(straddle), ownVols: [0.1, 0.3] }, -7.97, 7.97);
    expect(by(own, 'own').probability).toBeCloseTo(by(found, 'level').probability, 2);
  });
  it('by the past counts its paths, each where it was at every close', () => {
    const legs: MarketLeg[] = [
      { ...leg('call', 2, 1), strike: 1000 },
      { underlying: true, quantity: 1 },
    ];
    // Four paths that go straight up or down: two of them pass 105 by the end.
    const slopes = [0.12, 0.06, 0.03, -0.1];
    const walk = (sessions: number) => Float64Array.from(slopes, (slope) => (slope * sessions) / SESSIONS);
    const past = by(halfOnTheWay(structureOf(legs, { walk }), SPOT, 10), 'past');
    expect(past.probability).toBe(0.5);
    expect(past.error).toBe(0.25);
    expect(by(halfOnTheWay(structureOf(legs, { walk: () => null }), SPOT, 10), 'past')).toBeUndefined();
  });
  it('has no answer without an end to the profit, or without an expiry to come', () => {
    expect(halfOnTheWay(structureOf([leg('call', 1, 1)]), 4, Infinity)).toEqual([]);
    expect(
      halfOnTheWay(structureOf([leg('call', 1, -1)], { scenario: { ...unmoved(SPOT), elapsed: 0.3 } }), -4, 4),
    ).toEqual([]);
    expect(halfOnTheWay(structureOf([{ underlying: true, quantity: 1 }]), 100, 10)).toEqual([]);
  });
});
