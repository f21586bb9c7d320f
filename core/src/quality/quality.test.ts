import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { REASONS, reasonName } from '../implied';
import { curveVol, naturalCurve } from '../surface';
import { findAside, type JudgedSide } from './aside';
import { brokenForwards, commonYield, type JudgedForward } from './forwards';
import { QUALITY_WEIGHTS, qualityParts, qualityScore, type QualityInput, underlyingParts } from './score';

const curve = naturalCurve({ theta: 0.004, rho: -0.4, phi: 9 }, 0.1, 100);
const strike = Float64Array.from({ length: 17 }, (_, i) => 80 + 2.5 * i);

/** Both sides quoted around the curve; some contracts moved, some standing still. */
function sides(moves: Record<string, number> = {}, still: readonly string[] = [], half = 0.003): JudgedSide[] {
  return (['call', 'put'] as const).map((side) => {
    const mid = strike.map((level) => {
      const wobble = 0.0008 * Math.sin(7 * level + (side === 'call' ? 0 : 1));
      return curveVol(curve, Math.log(level / 100)) + wobble + (moves[`${side} ${level}`] ?? 0);
    });
    return {
      side,
      mid,
      bid: mid.map((vol) => vol - half),
      ask: mid.map((vol) => vol + half),
      reason: new Uint8Array(strike.length),
      unmoved: Uint8Array.from(strike, (level) => (still.includes(`${side} ${level}`) ? 1 : 0)),
    };
  });
}
const found = (judged: JudgedSide[]) =>
  findAside(strike, 100, curve, judged).map(
    ({ side, strike: level, reason }) => `${side} ${level} ${reasonName(reason)}`,
  );

describe('contracts that cannot be meant', () => {
  it('none where all lie along the curve', () => {
    expect(found(sides())).toEqual([]);
  });
  it('off the curve out of the money, off parity in the money, stale where the quote stood still', () => {
    expect(found(sides({ 'put 90': 0.08 }))).toEqual(['put 90 off-curve']);
    expect(found(sides({ 'call 90': -0.08 }))).toEqual(['call 90 off-parity']);
    expect(found(sides({ 'call 110': 0.02 }, ['call 110']))).toEqual(['call 110 stale']);
    // The same miss of a quote that moved is not enough.
    expect(found(sides({ 'call 110': 0.02 }))).toEqual([]);
    // A quote that stood still because nothing happened is not stale.
    expect(found(sides({}, ['call 110', 'put 90']))).toEqual([]);
  });
  it('a wide quote may miss by more', () => {
    const wide = sides({ 'put 90': 0.08 }).map((side) => ({
      ...side,
      bid: side.mid.map((vol) => vol - 0.02),
      ask: side.mid.map((vol) => vol + 0.02),
    }));
    expect(found(wide)).toEqual([]);
  });
  it('where many miss, the curve is wrong and none is set aside', () => {
    const moves = Object.fromEntries(
      [...strike].slice(0, 9).flatMap((level) => [
        [`put ${level}`, 0.1],
        [`call ${level}`, 0.1],
      ]),
    );
    expect(found(sides(moves))).toEqual([]);
  });
  it('what has no vol is not judged', () => {
    const judged = sides({ 'put 90': 0.2 });
    judged[1]!.reason[strike.indexOf(90)] = REASONS.indexOf('crossed');
    expect(found(judged)).toEqual([]);
  });
});

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
