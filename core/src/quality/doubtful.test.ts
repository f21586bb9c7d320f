import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { doubtfulMeasures, type SessionMeasures } from './doubtful';

const SESSIONS = 60;
const wave = (i: number, phase: number) => Math.sin(1.7 * i + phase) + 0.5 * Math.sin(4.3 * i + 2 * phase);

/** A calm year: vols drift slowly, with noise well within their uncertainty. */
function calm(): SessionMeasures[] {
  return Array.from({ length: SESSIONS }, (_, i) => {
    const level = 0.2 + 0.02 * Math.sin(i / 9);
    const vol = (tilt: number, phase: number) => level + tilt + 0.0004 * wave(i, phase);
    const deviation = 4;
    return {
      price: 100 + 2 * Math.sin(i / 5) + 0.4 * wave(i, 9),
      ...{ iv7: vol(-0.01, 1), iv30: vol(0, 2), iv60: vol(0.005, 3), iv90: vol(0.008, 4) },
      ...{ iv180: vol(0.01, 5), iv360: vol(0.012, 6), varianceIndex: 100 * (level + 0.012) + 0.04 * wave(i, 7) },
      ...{ riskReversal25: -0.04 + 0.0004 * wave(i, 8), butterfly25: 0.005 + 0.0003 * wave(i, 10) },
      ...{ riskReversal10: -0.08 + 0.0008 * wave(i, 11), butterfly10: 0.02 + 0.0006 * wave(i, 12) },
      ...{ frontStraddleMove: (0.795 + 0.002 * wave(i, 13)) * deviation, frontDeviationMove: deviation },
      ...{ iv30Uncertainty: 0.0006, riskReversal25Uncertainty: 0.001, frontStraddleUncertainty: 0.012 },
    };
  });
}

const planted = (changes: Record<number, Partial<Record<keyof SessionMeasures, number>>>) =>
  doubtfulMeasures(
    calm().map((one, i) => ({
      ...one,
      ...Object.fromEntries(
        Object.entries(changes[i] ?? {}).map(([name, by]) => [name, one[name as keyof SessionMeasures]! + by]),
      ),
    })),
  ).map(({ at, measure, sessions }) => `${at} ${measure} ${sessions}`);

describe('measures that move and come back', () => {
  it('none in a calm year', () => {
    expect(planted({})).toEqual([]);
  });
  it('one session away, or two', () => {
    expect(planted({ 20: { iv90: 0.05 } })).toEqual(['20 iv90 1']);
    expect(planted({ 20: { iv360: -0.04 }, 21: { iv360: -0.045 } })).toContain('20 iv360 2');
    expect(planted({ 30: { riskReversal25: 0.02 } })).toEqual(['30 riskReversal25 1']);
    expect(planted({ 40: { varianceIndex: 4 } })).toEqual(['40 varianceIndex 1']);
    expect(planted({ 40: { frontStraddleMove: 1.2 } })).toEqual(['40 straddleRatio 1']);
    expect(planted({ 20: { iv60: 0.03, iv90: 0.05 } })).toEqual(['20 iv60 1', '20 iv90 1']);
  });
  it('not where the market moves: what stays, what the neighbours do too, what the price does', () => {
    const stays = Object.fromEntries(Array.from({ length: 40 }, (_, i) => [20 + i, { iv90: 0.05 }]));
    expect(planted(stays)).toEqual([]);
    const all = { iv7: 0.06, iv30: 0.05, iv60: 0.05, iv90: 0.04, iv180: 0.03, iv360: 0.025, varianceIndex: 5 };
    expect(planted({ 20: all })).toEqual([]);
    expect(planted({ 20: { iv7: 0.05, price: -8 } })).toEqual([]);
  });
  it('not where the quotes leave it open', () => {
    const vague = calm().map((one, i) => ({
      ...one,
      iv30Uncertainty: 0.03,
      iv90: one.iv90! + (i === 20 ? 0.05 : 0),
    }));
    expect(doubtfulMeasures(vague)).toEqual([]);
  });
  it('whatever is missing, nothing is thrown and nothing is found in a gap', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(SESSIONS - 1), fc.constantFrom('iv30', 'price', 'iv90', 'varianceIndex')), {
          maxLength: 30,
        }),
        (holes) => {
          const rows = calm().map((one, i) => ({
            ...one,
            ...Object.fromEntries(holes.filter(([at]) => at === i).map(([, name]) => [name, null])),
          }));
          expect(doubtfulMeasures(rows)).toEqual([]);
        },
      ),
      { numRuns: 40 },
    );
    expect(doubtfulMeasures([])).toEqual([]);
  });
});
