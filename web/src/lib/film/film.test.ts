import { curveVol, surfaceOf, surfaceVol } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { curvesAnswer, fitRow } from '$lib/server/market';
import { makeSnapshot } from '$lib/testing/snapshot';
import { framesOfAnswer, loadingOrder, usedExpiries, type Frame } from './frame';
import { BAND_DEVIATIONS, pastMoment, skewBand, termBand } from './past';

const snapshot = makeSnapshot();
const moments = ['2031-03-12T15:45:00.000Z', '2031-03-13T15:45:00.000Z'];

function frames(): Frame[] {
  const rows = moments.flatMap((asof) =>
    snapshot.slices.map(({ fit, strike }) => ({
      ...fitRow({ symbol: 'TEST', asof: new Date(asof) }, fit),
      near: null,
      lowest: strike[0]!,
      highest: strike.at(-1)!,
    })),
  );
  return framesOfAnswer(JSON.parse(JSON.stringify(curvesAnswer('TEST', rows))));
}

describe('frames', () => {
  it('come over the wire as the fits that they are of', () => {
    const [first, second] = frames();
    expect([first!.asof, second!.asof]).toEqual(moments);
    expect(second!.instant).toBe(Date.parse(moments[1]!));
    first!.expiries.forEach((one, i) => {
      const { fit, strike } = snapshot.slices[i]!;
      expect(one).toMatchObject({
        expiry: fit.expiry,
        atmVol: fit.atmVol,
        forward: fit.forward,
        sessions: fit.sessions,
      });
      expect(one.curve).toEqual(fit.curve);
      expect([one.lowest, one.highest]).toEqual([strike[0], strike.at(-1)]);
    });
  });
  it('leave out of a surface what has no curve or is set aside', () => {
    const [{ expiries }] = frames() as [Frame];
    expiries[0]!.expiryAside = 'by-hand';
    expiries[1]!.curve = null;
    expect(usedExpiries({ expiries })).toEqual([expiries[2]]);
  });
  it('are loaded from the one in view on, then back to the start', () => {
    expect(loadingOrder(5, 2)).toEqual([2, 3, 4, 1, 0]);
    expect(loadingOrder(3, 0)).toEqual([0, 1, 2]);
    expect(loadingOrder(2, 9)).toEqual([1, 0]);
    expect(loadingOrder(0, 0)).toEqual([]);
  });
});

/** The frame with all its vols raised by some points. */
function raised(frame: Frame, points: number): Frame {
  return {
    ...frame,
    expiries: frame.expiries.map((one) => {
      const vol = one.atmVol + points / 100;
      const parameters = [vol * vol * one.years, 0, 0, 0, 1];
      return { ...one, atmVol: vol, curve: { ...one.curve!, kind: 'flat' as const, parameters } };
    }),
  };
}

describe('the band of the past', () => {
  const [frame] = frames() as [Frame];
  const past = [0, 1, 2, 3, 4].map((points) => pastMoment(raised(frame, points)));
  const fit = frame.expiries[1]!;
  const middle = BAND_DEVIATIONS.length >> 1;

  it('of level curves has their levels as its quantiles, and none in its shape', () => {
    const band = skewBand(past, { years: fit.years, isShape: false, now: null });
    expect(band.sessions).toBe(5);
    expect(band.rows[2]![middle]).toBeCloseTo(fit.atmVol + 0.02, 9);
    expect(band.rows[1]![0]).toBeCloseTo(fit.atmVol + 0.01, 9);
    expect(band.under.every(Number.isNaN)).toBe(true);
    const shape = skewBand(past, { years: fit.years, isShape: true, now: null });
    for (const row of shape.rows) for (const vol of row) expect(vol).toBeCloseTo(0, 12);
  });

  it('says how much of it lies under the curve that is now', () => {
    const now = { curve: fit.curve!, atmVol: fit.atmVol };
    const band = skewBand(past, { years: fit.years, isShape: true, now });
    // A tilted curve over level ones: dear puts, cheap calls.
    expect([band.under[5], band.under[35]]).toEqual([1, 0]);
    const at = BAND_DEVIATIONS[5]! * fit.atmVol * Math.sqrt(fit.years);
    expect(curveVol(fit.curve!, at)).toBeGreaterThan(fit.atmVol);
  });

  it('counts no session whose expiries do not reach', () => {
    expect(skewBand(past, { years: 9, isShape: false, now: null }).sessions).toBe(0);
    const days = [1, fit.days, 5000];
    const band = termBand(past, days, [0, fit.atmVol + 0.025, 1]);
    expect(band.rows[2]![0]).toBeNaN();
    expect(band.rows[2]![1]).toBeCloseTo(fit.atmVol + 0.02, 6);
    expect([...band.under]).toEqual([NaN, 0.6, NaN]);
  });

  it('is of the surface of a moment', () => {
    const surface = surfaceOf(usedExpiries(frame).map(({ curve }) => curve));
    expect(surfaceVol(pastMoment(frame).surface, 0.05, 0.15)).toBe(surfaceVol(surface, 0.05, 0.15));
  });
});
