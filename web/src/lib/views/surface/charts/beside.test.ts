import { curveVol, normalCdf } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { usedExpiries } from '$lib/film';
import { comparedSentence } from '$lib/formats';
import { isInverse } from '../inverse';
import { makeSnapshot, TOKENS } from '$lib/testing/snapshot';
import { besideColor, besideLine, besideNames, besideSkews, besideTraces, comparedAt, nearestExpiry } from './beside';
import { curveLine } from './curve-line';

const snapshot = makeSnapshot();
const expiries = usedExpiries({ expiries: snapshot.slices.map(({ fit }) => ({ ...fit, lowest: 88, highest: 112 })) });
const own = expiries[1]!;

describe('curves beside', () => {
  it('of the same underlying lie on its own, on every axis and scale', () => {
    for (const axis of ['strike', 'forward', 'log', 'standardized', 'delta'] as const) {
      for (const scale of ['vol', 'shape', 'variance'] as const) {
        const line = besideLine(own, own, false, axis, scale);
        const itself = curveLine(own, [88, 112], axis, scale);
        line.x.forEach((x, i) => {
          expect(x).toBeCloseTo(itself.x[i]!, 9);
          expect(line.y[i]).toBeCloseTo(itself.y[i]!, 12);
        });
      }
    }
  });
  it('of an inverse are turned round: its put wing stands where the calls are', () => {
    const line = besideLine(own, own, true, 'log', 'vol');
    const at = line.x.findIndex((k) => k > 0.05);
    expect(line.y[at]).toBeCloseTo(100 * curveVol(own.curve, -line.x[at]!), 10);
    expect(line.x[0]).toBeCloseTo(-Math.log(112 / own.forward), 10);
    const onDelta = besideLine(own, own, true, 'delta', 'vol');
    const [k, vol] = [line.x[at]!, line.y[at]! / 100];
    const deviation = vol * Math.sqrt(own.years);
    expect(onDelta.x[at]).toBeCloseTo(100 * normalCdf(-k / deviation + deviation / 2), 9);
  });
  it('are of the nearest expiry in time, and named', () => {
    expect(nearestExpiry({ expiries }, 40)!.expiry).toBe('2031-04-17');
    expect(nearestExpiry({ expiries: [] }, 40)).toBeNull();
    const beside = [
      { symbol: 'NONE', at: 0, expiries: [], isMirrored: false },
      { symbol: 'OTHER', at: 1, expiries, isMirrored: false },
    ];
    const skews = besideSkews(beside, own, 'strike', 'vol', TOKENS);
    expect(besideTraces(skews)).toHaveLength(1);
    expect(besideNames(skews).map(({ text }) => text)).toEqual(['OTHER']);
    // The one that is missing has not given it its colour.
    expect(skews[0]!.color).toBe(besideColor(1, TOKENS));
  });
  it('are compared at the time of the expiry, the lean of an inverse turned', () => {
    const beside = [
      { symbol: 'SAME', at: 0, expiries, isMirrored: false },
      { symbol: 'TURN', at: 1, expiries, isMirrored: true },
    ];
    const [same, turned] = comparedAt(beside, own);
    expect(same!.riskReversal25).toBeCloseTo(own.riskReversal25, 12);
    expect(turned!.riskReversal25).toBeCloseTo(-own.riskReversal25, 12);
    expect(comparedSentence(own, [same!, { ...turned!, atmVol: own.atmVol - 0.02 }]).rest).toMatch(
      /^SAME stands 0\.0 points (over|under) at the money, its RR 25 is −\d\.\d; TURN stands 2\.0 points under at the money, its RR 25 is \+\d\.\d mirrored\.$/,
    );
    expect(comparedSentence(own, comparedAt([{ symbol: 'A', at: 0, expiries: [], isMirrored: false }], own)).rest).toBe(
      'The others have no curve.',
    );
  });
  it('know inverse pairs by their kind and their forwards', () => {
    expect(isInverse(['fx', 'fx'], [4, 0.249])).toBe(true);
    expect(isInverse(['fx', 'fx'], [4, 0.4])).toBe(false);
    expect(isInverse(['fx', 'index'], [4, 0.25])).toBe(false);
    expect(isInverse(['fx', 'fx'], [4, undefined])).toBe(false);
  });
});
