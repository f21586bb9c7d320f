import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { brokenForwards, commonYield, isStrange, offTerm, type JudgedForward } from './forwards';
import { QUALITY_WEIGHTS, qualityParts, qualityScore, type QualityInput, underlyingParts } from './score';

describe('forwards that cannot be meant', () => {
  const RATE = 0.04;
  const VOL = 0.3;
  const expiries = (dividendYield: number, lift: Record<number, number> = {}): JudgedForward[] =>
    [0.05, 0.1, 0.25, 0.5, 0.8].map((years, i) => ({
      years,
      carry: 100 * Math.exp(RATE * years),
      forward: 100 * Math.exp((RATE - dividendYield) * years) * (1 + (lift[i] ?? 0)),
      uncertainty: 0.05,
      ...{
        sold: [],
        bought: [],
        mostCarry: 100 * Math.exp(RATE * years),
        leastCarry: NaN,
        isKnown: false,
        wasBroken: null,
      },
    }));
  const none = [false, false, false, false, false];
  it('stand apart from the yield that the others imply', () => {
    expect(brokenForwards(expiries(0), VOL)).toEqual(none);
    expect(brokenForwards(expiries(0.03), VOL)).toEqual(none);
    expect(brokenForwards(expiries(0.03, { 2: 0.07 }), VOL)).toEqual([false, false, true, false, false]);
    expect(brokenForwards(expiries(0.03, { 2: -0.07 }), VOL)).toEqual([false, false, true, false, false]);
  });
  it('an uncertain one may be further off, and of two nobody can tell', () => {
    const [a, b, c, d, e] = expiries(0.03, { 2: -0.06 }) as [JudgedForward, ...JudgedForward[]] & JudgedForward[];
    expect(brokenForwards([a, b!, { ...c!, uncertainty: 2 }, d!, e!], VOL)[2]).toBe(false);
    expect(brokenForwards([a, { ...c!, uncertainty: 1 }], VOL)).toEqual([false, false]);
    expect(brokenForwards([a, b!, { ...c!, forward: NaN }, d!], VOL)).toEqual([false, false, false, false]);
  });
  it('over what holding costs is told of one alone, under it by the session before', () => {
    const [, , over] = expiries(0, { 2: 0.05 });
    expect(brokenForwards([over!], VOL)).toEqual([true]);
    const [, , under] = expiries(0, { 2: -0.05 });
    expect(brokenForwards([under!], VOL)).toEqual([false]);
    const past = [0.05, 0.1, 0.5].map((years) => ({ years, value: 0, error: 0.001 }));
    expect(brokenForwards([under!], VOL, past)).toEqual([true]);
  });
  describe('by what can be traded against carry', () => {
    const traded = (offs: readonly number[], wasBroken: boolean | null, forward = NaN): boolean => {
      const [one] = expiries(0) as [JudgedForward];
      const sold = offs.map((off) => one.mostCarry * (1 + off));
      return brokenForwards([{ ...one, forward, sold, wasBroken }], VOL)[0]!;
    };
    it('at most of its strikes', () => {
      expect(traded([0.03, 0.02, 0.05], null)).toBe(true);
      expect(traded([0.03, -0.02, -0.01], null)).toBe(false);
      // A single strike is a quote that cannot be meant, not an expiry.
      expect(traded([0.03], null)).toBe(false);
    });
    it('two bad quotes do not break an expiry that was whole, four strikes do', () => {
      expect(traded([0.03, 0.02], false)).toBe(false);
      expect(traded([0.03, 0.02, -0.01], false)).toBe(false);
      expect(traded([0.03, 0.02, 0.02, -0.01], false)).toBe(true);
    });
    it('one that was broken stays so until it has clearly come back', () => {
      expect(traded([0.03, -0.02, -0.02, -0.02], true)).toBe(true);
      expect(traded([], true)).toBe(true);
      expect(traded([-0.01, -0.02, -0.02], true)).toBe(false);
      const [{ carry }] = expiries(0) as [JudgedForward];
      expect(traded([-0.01, -0.02, -0.02], true, carry)).toBe(false);
      expect(traded([-0.01, -0.02, -0.02], true, 0.991 * carry)).toBe(true);
    });
  });
});

describe('the yield that expiries say together', () => {
  it('is that of most of them, with what is usual where they disagree', () => {
    const known = [0.019, 0.021, 0.02, 0.3].map((value, i) => ({ years: 0.1 * (i + 1), value, error: 0.002 }));
    const { value, error } = commonYield(known);
    expect(value).toBeCloseTo(0.02, 3);
    expect(error).toBeLessThan(0.004);
    expect(commonYield([]).value).toBe(0);
    // What is hardly known leaves the usual: nothing, and a few per cent.
    const vague = commonYield([{ years: 0.1, value: 0.2, error: 0.3 }]);
    expect(vague.value).toBeLessThan(0.01);
    expect(vague.error).toBeCloseTo(0.03, 2);
  });
});

describe('forwards far from carry', () => {
  it('need others to be believed', () => {
    expect(isStrange({ forward: 92, carry: 100, years: 0.5 })).toBe(true);
    expect(isStrange({ forward: 97, carry: 100, years: 0.5 })).toBe(false);
    // Within hours rounding alone is worth more than any yield.
    expect(isStrange({ forward: 100.2, carry: 100, years: 0.001 })).toBe(false);
  });
  it('one alone does not tell the others their yield, two do', () => {
    const far = { years: 0.4, value: -0.24, error: 0.01 };
    expect(commonYield([far])).toEqual(commonYield([]));
    expect(commonYield([far, { ...far, years: 0.6 }]).value).toBeLessThan(-0.2);
    expect(commonYield([{ ...far, value: -0.05 }]).value).toBeLessThan(-0.04);
  });
});

describe('vols of expiries with few quotes', () => {
  const term = (vols: readonly number[], past: readonly number[], scarce: readonly number[]) =>
    offTerm(
      vols.map((atmVol, i) => ({
        ...{ years: 0.1 * (i + 1), atmVol, uncertainty: 0.01, pastVol: past[i]!, isScarce: scarce.includes(i) },
      })),
    );
  const calm = [0.3, 0.31, 0.32, 0.33];
  it('out of line with the neighbours and with the session before cannot be meant', () => {
    expect(term([0.3, 0.6, 0.32, 0.33], calm, [1])).toEqual([false, true, false, false]);
    expect(term(calm, calm, [0, 1, 2, 3])).toEqual([false, false, false, false]);
  });
  it('a vol that was so before, that moves with all others, or that many quotes say is the market', () => {
    expect(term([0.3, 0.6, 0.32, 0.33], [0.3, 0.6, 0.32, 0.33], [1])[1]).toBe(false);
    expect(term([0.6, 0.62, 0.64, 0.66], calm, [0, 1, 2, 3])).toEqual([false, false, false, false]);
    expect(term([0.3, 0.6, 0.32, 0.33], calm, [])[1]).toBe(false);
  });
  it('of the wrong one and those that it makes look wrong only the wrong one', () => {
    expect(term([0.3, 0.31, 0.9, 0.33], calm, [0, 1, 2, 3])).toEqual([false, false, true, false]);
    expect(term([0.3, 0.31, 0.9], calm, [0, 1, 2])).toEqual([false, false, true]);
  });
  it('beside one other only what the session before tells', () => {
    expect(term([0.3, 0.6], calm, [0, 1])).toEqual([false, true]);
    expect(term([0.3, 0.6], [NaN, NaN], [0, 1])).toEqual([false, false]);
    expect(term([0.6, 0.62], calm, [0, 1])).toEqual([false, false]);
    expect(term([0.6], calm, [0])).toEqual([false]);
  });
  it('by half is out of line, however little is known of it', () => {
    const vague = [0.3, 0.6, 0.32].map((atmVol, i) => ({
      ...{ years: 0.1 * (i + 1), atmVol, uncertainty: i === 1 ? 0.2 : 0.01, pastVol: calm[i]!, isScarce: true },
    }));
    expect(offTerm(vague)).toEqual([false, true, false]);
  });
  it('what is hardly known may be further off', () => {
    const vague = [0.3, 0.45, 0.32].map((atmVol, i) => ({
      ...{ years: 0.1 * (i + 1), atmVol, uncertainty: i === 1 ? 0.05 : 0.01, pastVol: NaN, isScarce: i === 1 },
    }));
    expect(offTerm(vague)[1]).toBe(false);
  });
});

describe('the score', () => {
  const best: QualityInput = {
    contracts: 40,
    usable: 40,
    stale: 0,
    spread: 0.01,
    errorInHalfSpreads: 0.3,
    lowest: -0.3,
    highest: 0.3,
    deviation: 0.1,
  };
  it('is 100 where nothing is left to wish, and its weights add up to 1', () => {
    expect(Object.values(QUALITY_WEIGHTS).reduce((sum, weight) => sum + weight)).toBeCloseTo(1, 12);
    expect(qualityScore(qualityParts(best))).toBeCloseTo(100, 9);
    expect(
      qualityParts({ ...best, contracts: 0, usable: 0, spread: NaN, errorInHalfSpreads: NaN, deviation: NaN }),
    ).toEqual({
      usable: 0,
      spread: 0,
      fit: 0,
      coverage: 0,
      fresh: 0,
    });
  });
  it('falls with each thing that is worse, and stays between 0 and 100', () => {
    const worse: Partial<QualityInput>[] = [
      { usable: 20 },
      { stale: 4 },
      { spread: 0.1 },
      { errorInHalfSpreads: 3 },
      { lowest: -0.02 },
      { highest: 0.01 },
    ];
    for (const change of worse) expect(qualityScore(qualityParts({ ...best, ...change }))).toBeLessThan(97);
    const any = fc.record({
      contracts: fc.nat(500),
      usable: fc.nat(500),
      stale: fc.nat(500),
      spread: fc.double({ min: 0, max: 2, noNaN: false }),
      errorInHalfSpreads: fc.double({ min: 0, max: 1e3 }),
      lowest: fc.double({ min: -3, max: 0 }),
      highest: fc.double({ min: 0, max: 3 }),
      deviation: fc.double({ min: 0, max: 3 }),
    });
    fc.assert(
      fc.property(any, (input) => {
        const score = qualityScore(qualityParts({ ...input, usable: Math.min(input.usable, input.contracts) }));
        expect(score).toBeGreaterThanOrEqual(0);
        expect(score).toBeLessThanOrEqual(100 + 1e-9);
      }),
    );
  });
});

describe('the parts of an underlying', () => {
  it('are those of its expiries, each by its contracts, and none without any', () => {
    const parts = { usable: 1, spread: 0.5, fit: 1, coverage: 0, fresh: 1 };
    const found = underlyingParts([
      { contracts: 30, qualityParts: parts },
      { contracts: 10, qualityParts: { ...parts, usable: 0, coverage: 1 } },
    ]);
    expect(found).toEqual({ usable: 0.75, spread: 0.5, fit: 1, coverage: 0.25, fresh: 1 });
    expect(underlyingParts([]).usable).toBeNaN();
  });
});
