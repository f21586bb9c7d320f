import type { Side } from '../contracts/contract';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { normalCdf, normalInverse } from '../distributions';
import { priceContract, touchProbability } from '../models';
import { sessionMove } from '../realized';
import { curveVol, fitCurve, flatCurve } from '../surface';
import {
  curveLaw,
  deviationMove,
  lognormalLaw,
  oddsUnder,
  sampleLaw,
  straddleShare,
  straddleUsed,
  zoneOdds,
  type Law,
} from '.';

/** Simpson's rule. */
function integral(f: (x: number) => number, from: number, to: number, steps = 4000): number {
  const h = (to - from) / steps;
  let sum = f(from) + f(to);
  for (let i = 1; i < steps; i++) sum += (i % 2 === 1 ? 4 : 2) * f(from + i * h);
  return (sum * h) / 3;
}

const at = Array.from({ length: 21 }, (_, i) => -0.3 + 0.03 * i);
const skewed = fitCurve(
  { logMoneyness: at, vol: at.map((k) => 0.2 - 0.25 * k + 0.3 * k * k), halfSpread: at.map(() => 0.001), count: 21 },
  0.25,
  100,
)!.curve;

describe('laws', () => {
  it('of one vol are N(−d₂), the same as a flat curve', () => {
    const law = lognormalLaw(0.2 * Math.sqrt(0.5));
    const flat = curveLaw(flatCurve(0.2, 0.5, 100));
    for (const strike of [60, 80, 95, 100, 110, 150]) {
      const { itm } = priceContract({
        ...{ model: 'black-76', side: 'put', forward: 100, strike, years: 0.5, rate: 0.03, vol: 0.2 },
      });
      expect(oddsUnder(law, 100, strike)).toBeCloseTo(itm, 12);
      expect(oddsUnder(flat, 100, strike)).toBeCloseTo(itm, 12);
      const k = Math.log(strike / 100);
      expect(flat.density(k)).toBeCloseTo(law.density(k), 12);
    }
  });
  it('integrate to one and to the forward, and their densities to what lies under', () => {
    for (const law of [lognormalLaw(0.1), curveLaw(skewed)]) {
      expect(integral((k) => law.density(k), -1.5, 1.5)).toBeCloseTo(1, 6);
      expect(integral((k) => Math.exp(k) * law.density(k), -1.5, 1.5)).toBeCloseTo(1, 5);
      expect(integral((k) => law.density(k), -1.5, -0.07)).toBeCloseTo(law.under(-0.07), 6);
    }
  });
  it('of a curve are the slope of its call prices', () => {
    const law = curveLaw(skewed);
    for (const strike of [85, 97, 104, 112]) {
      const call = (level: number) => {
        const vol = curveVol(skewed, Math.log(level / 100));
        return priceContract({
          model: 'black-76',
          side: 'call',
          forward: 100,
          strike: level,
          years: 0.25,
          rate: 0,
          vol,
        }).price;
      };
      const slope = (call(strike + 0.01) - call(strike - 0.01)) / 0.02;
      expect(1 - oddsUnder(law, 100, strike)).toBeCloseTo(-slope, 5);
    }
  });
  it('of a sample are its shares, and a density that integrates to one', () => {
    const sorted = Float64Array.from({ length: 1001 }, (_, i) => -0.5 + i / 1000);
    const law = sampleLaw(sorted);
    expect(law.under(-0.5001)).toBe(0);
    expect(law.under(0)).toBeCloseTo(501 / 1001, 12);
    expect(law.under(2)).toBe(1);
    expect(integral((k) => law.density(k), -2, 2)).toBeCloseTo(1, 6);
    // The same from a few thousand quantiles as from all.
    const large = Float64Array.from({ length: 100_001 }, (_, i) => -0.5 + i / 100_000);
    expect(sampleLaw(large).density(0.1)).toBeCloseTo(1, 2);
  });
  it('of a sample of normal ones have the normal density, as much wider as the kernel is', () => {
    const count = 4000;
    // Quantiles of the normal law stand for draws: there are 2000 kernels, their width is that of all.
    const sorted = Float64Array.from({ length: count }, (_, i) => 0.1 * normalInverse((i + 0.5) / count));
    const width = 0.9 * 0.1 * count ** -0.2;
    const wide = Math.sqrt(0.01 + width * width);
    expect(sampleLaw(sorted).density(0.05) * wide).toBeCloseTo(
      Math.exp(-0.5 * (0.05 / wide) ** 2) / Math.sqrt(2 * Math.PI),
      3,
    );
  });
  it('without a deviation are certain; without a vol, or of one value, nothing', () => {
    expect([-0.01, 0, 0.01].map(lognormalLaw(0).under)).toEqual([0, 0.5, 1]);
    expect(lognormalLaw(NaN).under(0)).toBeNaN();
    expect(sampleLaw(Float64Array.of(0.1)).under(0)).toBeNaN();
  });
});

describe('zones', () => {
  it('are differences of two cumulative normals on a flat basis', () => {
    const law = lognormalLaw(0.3 * Math.sqrt(0.25));
    const d = (level: number) => Math.log(level / 50) / 0.15 + 0.075;
    const zones = zoneOdds(law, 50, [55, 45]);
    expect(zones.map(({ from, to }) => [from, to])).toEqual([
      [null, 45],
      [45, 55],
      [55, null],
    ]);
    expect(zones[1]!.probability).toBeCloseTo(normalCdf(d(55)) - normalCdf(d(45)), 14);
  });
  it('sum to one whatever the levels and the law', () => {
    const laws: Law[] = [lognormalLaw(0.2), curveLaw(skewed), sampleLaw(Float64Array.of(-0.2, -0.1, 0, 0.3))];
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -10, max: 1000, noNaN: true }), { maxLength: 8 }),
        fc.constantFrom(...laws),
        (levels, law) => {
          const zones = zoneOdds(law, 100, levels);
          expect(zones).toHaveLength(levels.length + 1);
          expect(zones.reduce((sum, { probability }) => sum + probability, 0)).toBeCloseTo(1, 9);
          for (const { probability } of zones) expect(probability).toBeGreaterThan(-1e-9);
        },
      ),
    );
  });
  it('of no level is everything', () => {
    expect(zoneOdds(lognormalLaw(0.2), 100, [])).toEqual([{ from: null, to: null, probability: 1 }]);
  });
});

describe('expected moves', () => {
  const quotes = [
    { strike: 90, callMid: 12, putMid: 1.5, vol: 0.3 },
    { strike: 100, callMid: 5, putMid: 4, vol: 0.28 },
    { strike: 105, callMid: 3, putMid: 6.5, vol: 0.27 },
    { strike: 110, callMid: 1.5, putMid: NaN, vol: 0.26 },
  ];
  const at = (forward: number) => ({ forward, years: 0.16, discount: 0.99 });
  it('say which straddles they are made of', () => {
    expect(straddleUsed(quotes, at(101), 'bracket')).toEqual({
      choice: 'bracket',
      move: expect.closeTo(0.8 * 9 + 0.2 * 9.5, 12) as number,
      vol: NaN,
      parts: [
        { ...quotes[1]!, weight: expect.closeTo(0.8, 12) as number },
        { ...quotes[2]!, weight: expect.closeTo(0.2, 12) as number },
      ],
    });
    const nearest = straddleUsed(quotes, at(101), 'nearest')!;
    expect([nearest.move, nearest.parts]).toEqual([9, [{ ...quotes[1]!, weight: 1 }]]);
    expect(straddleUsed(quotes, at(104), 'nearest')!.parts[0]!.strike).toBe(105);
  });
  it('stand on the strike itself, and on the last one where the forward is not bracketed', () => {
    const partsAt = (forward: number) => straddleUsed(quotes, at(forward), 'bracket')!.parts;
    expect(partsAt(100)).toEqual([{ ...quotes[1]!, weight: 1 }]);
    expect(partsAt(120)).toEqual([{ ...quotes[2]!, weight: 1 }]);
    expect(partsAt(80)).toEqual([{ ...quotes[0]!, weight: 1 }]);
    expect(straddleUsed([quotes[3]!], at(110), 'bracket')).toBeNull();
    expect(straddleUsed([], at(100), 'forward')).toBeNull();
  });
  it('at the forward: vols interpolated to it, and the price of a straddle there, by hand', () => {
    const found = straddleUsed(quotes, at(101), 'forward')!;
    expect(found.vol).toBeCloseTo(0.8 * 0.28 + 0.2 * 0.27, 14);
    // D·F·2(2N(s/2) − 1) is a call and a put struck at the forward.
    const price = (side: Side) =>
      priceContract({
        ...({ model: 'black-76', side, forward: 101, strike: 101, years: 0.16 } as const),
        rate: -Math.log(0.99) / 0.16,
        vol: found.vol,
      }).price;
    expect(found.move).toBeCloseTo(price('call') + price('put'), 10);
    // A strike with one side only has its say.
    expect(straddleUsed(quotes, at(108), 'forward')!.parts.map(({ strike }) => strike)).toEqual([105, 110]);
  });
  it('coarse strikes make the bracket too large, and leave the one at the forward as it is', () => {
    const vol = 0.08;
    const years = 0.08;
    for (const step of [0.2, 1, 2.5, 5]) {
      const terms = { forward: 100 + 0.5 * step, years, discount: 1 };
      const listed = [100 - step, 100, 100 + step].map((strike) => {
        const price = (side: Side) =>
          priceContract({ model: 'black-76', side, forward: terms.forward, strike, years, rate: 0, vol }).price;
        return { strike, callMid: price('call'), putMid: price('put'), vol };
      });
      const fair = straddleUsed(listed, terms, 'forward')!.move;
      expect(fair / deviationMove(terms.forward, vol, years)).toBeCloseTo(straddleShare(vol * Math.sqrt(years)), 12);
      const over = straddleUsed(listed, terms, 'bracket')!.move / fair;
      // Away from the forward by h deviations a straddle is dearer by about h²/2 (the density at its middle).
      const h = (0.5 * step) / (terms.forward * vol * Math.sqrt(years));
      expect(over).toBeGreaterThan(1 + 0.3 * h * h);
      expect(over).toBeLessThan(1 + 0.51 * h * h + 1e-9);
    }
  });
  it('by straddle are about 0.8 deviations: √(2/π), less s²/24 of it', () => {
    for (const [vol, years] of [
      [0.1, 0.02],
      [0.2, 0.25],
      [0.6, 0.5],
    ] as const) {
      const one = { model: 'black-76', forward: 100, strike: 100, years, rate: 0, vol } as const;
      const straddle = priceContract({ ...one, side: 'call' }).price + priceContract({ ...one, side: 'put' }).price;
      const s = vol * Math.sqrt(years);
      expect(straddle / deviationMove(100, vol, years)).toBeCloseTo(straddleShare(s), 12);
      const series = Math.sqrt(2 / Math.PI) * (1 - (s * s) / 24);
      expect(Math.abs(straddleShare(s) - series)).toBeLessThan(0.003 * s ** 4 + 1e-12);
    }
  });
  it('16 % a year is 1.008 % a day', () => {
    expect(100 * sessionMove(0.16)).toBeCloseTo(1.008, 3);
  });
});

describe('odds to touch', () => {
  it('agree with a fine simulation that watches between its steps', () => {
    // Two hundred steps a path, each with its bridge: P(touch between two ends) = e^(−2ab/σ²dt).
    let state = 12345;
    const uniform = () => (state = (state * 1_103_515_245 + 12_345) % 2_147_483_648) / 2_147_483_648;
    const normal = () => Math.sqrt(-2 * Math.log(uniform() || 1e-9)) * Math.cos(2 * Math.PI * uniform());
    const [spot, level, years, vol, drift, steps, walks] = [100, 108, 0.25, 0.2, 0.03, 50, 20_000];
    const [dt, barrier] = [years / steps, Math.log(level / spot)];
    let touched = 0;
    for (let walk = 0; walk < walks; walk++) {
      let x = 0;
      let missed = 1;
      for (let i = 0; i < steps && missed > 0; i++) {
        const next = x + (drift - 0.5 * vol * vol) * dt + vol * Math.sqrt(dt) * normal();
        missed *= next >= barrier ? 0 : 1 - Math.exp((-2 * (barrier - x) * (barrier - next)) / (vol * vol * dt));
        x = next;
      }
      touched += 1 - missed;
    }
    const share = touched / walks;
    expect(Math.abs(share - touchProbability(spot, level, years, drift, vol))).toBeLessThan(
      4 * Math.sqrt((share * (1 - share)) / walks),
    );
  });
});
