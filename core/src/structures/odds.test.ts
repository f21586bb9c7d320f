import { describe, expect, it } from 'vitest';
import type { BasisChoice, ExpiryFit } from '../chain';
import { exitProbability, priceContract, touchProbability } from '../models';
import { curveLaw, drawPaths, oddsUnder } from '../odds';
import { curveVol, naturalCurve } from '../surface';
import { payoffOf, structureOdds, type PayoffLeg } from '.';

const years = 0.25;
const curve = naturalCurve({ theta: 0.01, rho: -0.5, phi: 6 }, years, 101);
// What odds are told of is all that is read of a fit.
const fit = { forward: 101, years, curve, atmVol: curveVol(curve, 0) } as ExpiryFit;
const spot = 100;
const drift = Math.log(fit.forward / spot) / years;
const on = (basis: BasisChoice['basis'], more: Partial<BasisChoice> = {}): BasisChoice => ({
  ...{ basis, realizedVol: 0.15, indexVol: 0.22 },
  ...more,
});
const above = (strike: number, vol: number) =>
  priceContract({ model: 'black-76', side: 'call', forward: fit.forward, strike, years, rate: 0, vol }).itm;

const vertical: PayoffLeg[] = [
  { quantity: 1, sign: 1, strike: 102 },
  { quantity: -1, sign: 1, strike: 108 },
];
const strangle: PayoffLeg[] = [
  { quantity: -1, sign: 1, strike: 110 },
  { quantity: -1, sign: -1, strike: 92 },
];

describe('odds of a structure', () => {
  it('of a vertical on one vol: a leg in the money, gain and touch are those of two levels', () => {
    const payoff = payoffOf(vertical, 2);
    const odds = structureOdds(vertical, payoff, { fit, spot, choice: on('index') });
    expect(odds.itm).toBeCloseTo(above(102, 0.22), 12);
    expect(odds.gain).toBeCloseTo(above(104, 0.22), 12);
    expect(odds.touch).toBe(touchProbability(spot, 104, years, drift, 0.22));
  });
  it('of a sold strangle: gains between its break-evens, touches either, and is in the money outside its strikes', () => {
    const payoff = payoffOf(strangle, -3);
    const odds = structureOdds(strangle, payoff, { fit, spot, choice: on('level') });
    expect(odds.gain).toBeCloseTo(above(89, fit.atmVol) - above(113, fit.atmVol), 12);
    expect(odds.itm).toBeCloseTo(1 - above(92, fit.atmVol) + above(110, fit.atmVol), 12);
    expect(odds.touch).toBeCloseTo(exitProbability(spot, [89, 113], years, drift, fit.atmVol), 12);
  });
  it('on the curve takes its law, and each level with the vol that the curve has there', () => {
    const payoff = payoffOf(strangle, -3);
    const odds = structureOdds(strangle, payoff, { fit, spot, choice: on('curve') });
    const law = curveLaw(curve);
    expect(odds.gain).toBeCloseTo(oddsUnder(law, 101, 113) - oddsUnder(law, 101, 89), 12);
    const [down, up] = [89, 113].map((level) =>
      touchProbability(spot, level, years, drift, curveVol(curve, Math.log(level / 101))),
    );
    expect(odds.touch).toBeLessThanOrEqual(down! + up!);
    expect(odds.touch).toBeGreaterThan(Math.max(down!, up!));
    const shifted = structureOdds(strangle, payoff, {
      fit,
      spot,
      choice: on('manual', { manual: { kind: 'shift', value: 0.02 } }),
    });
    expect(shifted.touch).toBeGreaterThan(odds.touch);
  });
  it('of the past counts its paths', () => {
    const close = Float64Array.from(
      { length: 400 },
      (_, i) => 100 * Math.exp(0.08 * Math.sin(i / 9) + 0.01 * Math.cos(5 * i)),
    );
    const bars = { close, high: close.map((price) => 1.004 * price), low: close.map((price) => 0.996 * price) };
    const start = Math.log(spot / fit.forward);
    const sample = drawPaths(bars, { sessions: 20, start, sampling: 'stretches', drift: 'forward' })!;
    const payoff = payoffOf(strangle, -3);
    const odds = structureOdds(strangle, payoff, { fit, spot, choice: on('realized', { sample }) });
    const share = (of: (i: number) => boolean) =>
      sample.reach.highs.reduce((sum, _, i) => sum + Number(of(i)), 0) / sample.reach.highs.length;
    const level = (price: number) => Math.log(price / fit.forward);
    expect(odds.touch).toBe(share((i) => sample.reach.highs[i]! > level(113) || sample.reach.lows[i]! <= level(89)));
    expect(odds.gain).toBeGreaterThan(0);
    const none = structureOdds(strangle, payoff, { fit, spot, choice: on('realized', { sample: null }) });
    expect([none.itm, none.touch, none.gain]).toEqual([NaN, NaN, NaN]);
  });
  it('is in the money for certain where a put lies over a call, and touches nothing without a break-even', () => {
    const guts: PayoffLeg[] = [
      { quantity: 1, sign: 1, strike: 95 },
      { quantity: 1, sign: -1, strike: 105 },
    ];
    expect(structureOdds(guts, payoffOf(guts, 11), { fit, spot, choice: on('level') }).itm).toBe(1);
    const free = structureOdds(vertical, payoffOf(vertical, -1), { fit, spot, choice: on('level') });
    expect([free.gain, free.touch]).toEqual([1, NaN]);
  });
});
