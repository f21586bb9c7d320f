import type { Side } from '../contracts/contract';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { priceContract } from '../models';
import {
  curveVol,
  findArbitrage,
  flatCurve,
  logCumulative,
  logDensity,
  naturalCurve,
  eventMove,
  stretchesOf,
  STRIP_MARKS,
  publishedIndex,
  publishedStrip,
  stripVariance,
  surfaceAt,
  surfaceOf,
  surfaceVol,
  varianceIndex,
  type Curve,
  type QuotedExpiry,
} from '.';

const point = () => ({ w: 0, slope: 0, curvature: 0 });
const range = (min: number, max: number) => fc.double({ min, max, noNaN: true });

describe('time as variance passes', () => {
  const points = [
    { years: 0.02, variance: 0.0008 },
    { years: 0.04, variance: 0.0016 + 0.0025 },
    { years: 0.1, variance: 0.0016 + 0.0025 + 0.0024 },
  ];
  it('an event carries what the stretches beside it do not, by hand', () => {
    const [before, around, after] = stretchesOf(points, [0.03]);
    expect([before!.ambient, around!.ambient, after!.ambient].map((rate) => rate.toFixed(6))).toEqual([
      '0.040000',
      '0.040000',
      '0.040000',
    ]);
    expect(eventMove(around!)).toBeCloseTo(0.05, 12);
    const surface = surfaceOf(
      points.map(({ years, variance }) => flatCurve(Math.sqrt(variance / years), years, 100)),
      [0.03],
    );
    const variance = (years: number) => surfaceAt(surface, 0, years, point()).w;
    expect(variance(0.0299)).toBeCloseTo(0.04 * 0.0299, 10);
    expect(variance(0.0301)).toBeCloseTo(0.04 * 0.0301 + 0.0025, 10);
    expect(surfaceVol(surface, 0, 0.01)).toBeCloseTo(0.2, 10);
    expect(surfaceVol(surface, 0, 0.5)).toBeCloseTo(Math.sqrt(points[2]!.variance / 0.1), 10);
  });
  it('where every stretch has an event time carries it all', () => {
    const all = stretchesOf(points, [0.01, 0.03, 0.05]);
    expect(all.map(({ perEvent }) => perEvent)).toEqual([0, 0, 0]);
    expect(all[1]!.ambient).toBeCloseTo((points[1]!.variance - points[0]!.variance) / 0.02, 12);
  });
});

describe('the surface', () => {
  const curves = [0.05, 0.2, 0.7].map((years) =>
    naturalCurve({ theta: 0.05 * years, rho: -0.5, phi: 0.6 / Math.sqrt(0.05 * years) }, years, 100),
  );
  it('is its curves at their expiries, and never falls with time', () => {
    const surface = surfaceOf(curves.toReversed(), [0.1, 0.12]);
    for (const curve of curves) {
      for (const k of [-0.3, 0, 0.2]) expect(surfaceVol(surface, k, curve.years)).toBeCloseTo(curveVol(curve, k), 12);
    }
    fc.assert(
      fc.property(range(-0.5, 0.5), range(0.001, 1.5), range(0, 0.3), (k, years, later) => {
        const [first, second] = [years, years + later].map((at) => surfaceAt(surface, k, at, point()).w);
        expect(second! - first!).toBeGreaterThanOrEqual(-1e-12);
      }),
    );
    expect(() => surfaceAt(surfaceOf([]), 0, 1, point())).toThrow(RangeError);
  });
  it('has a density that integrates to one, with the forward as its mean and the cumulative as its integral', () => {
    const surface = surfaceOf(curves);
    for (const years of [0.03, 0.05, 0.1, 0.4, 1]) {
      const s = Math.sqrt(surfaceAt(surface, 0, years, point()).w);
      const step = s / 400;
      let [sum, mean, under] = [0, 0, 0];
      for (let k = -14 * s; k < 8 * s; k += step) {
        const density = logDensity(surfaceAt(surface, k, years, point()), k) * step;
        expect(density).toBeGreaterThan(-1e-12);
        sum += density;
        mean += density * Math.exp(k);
        if (k + 0.5 * step < 0) under += density;
      }
      expect(sum).toBeCloseTo(1, 5);
      expect(mean).toBeCloseTo(1, 5);
      expect(under).toBeCloseTo(logCumulative(surfaceAt(surface, 0, years, point()), 0), 2);
    }
  });
  it('a flat surface is Black and Scholes', () => {
    const at = surfaceAt(surfaceOf([flatCurve(0.2, 0.25, 100)]), 0.1, 0.25, point());
    const d2 = -0.1 / 0.1 - 0.05;
    expect(logDensity(at, 0.1)).toBeCloseTo(Math.exp(-0.5 * d2 * d2) / Math.sqrt(2 * Math.PI) / 0.1, 12);
    expect(at).toEqual({ w: expect.closeTo(0.01, 14), slope: 0, curvature: 0 });
  });
});

/** Quotes around the prices of a curve. */
function quoted(curve: Curve, strike: Float64Array, half: number, rate = 0.03) {
  const side = (name: Side) => {
    const price = strike.map(
      (k) =>
        priceContract({
          model: 'black-76',
          side: name,
          forward: curve.forward,
          strike: k,
          years: curve.years,
          rate,
          vol: curveVol(curve, Math.log(k / curve.forward)),
        }).price,
    );
    const vol = strike.map((k) => curveVol(curve, Math.log(k / curve.forward)));
    return {
      bid: price.map((mid) => mid - half),
      ask: price.map((mid) => mid + half),
      bidVol: vol.map((mid) => mid - 0.001),
      askVol: vol.map((mid) => mid + 0.001),
    };
  };
  return { call: side('call'), put: side('put') };
}

/** A side of a strip as it is quoted, zero being no bid; some quotes marked otherwise. */
function stripSide(mid: ArrayLike<number>, marks: Record<number, number> = {}) {
  const mark = Array.from(mid, (price, i) => marks[i] ?? (price > 0 ? STRIP_MARKS.used : STRIP_MARKS.noBid));
  return { mid, mark };
}

describe('the variance index', () => {
  it('of the published example: two strips, 35 924 and 46 394 minutes (white paper, from memory)', () => {
    const strips = [
      { minutes: 46_394, variance: 0.01882101 },
      { minutes: 35_924, variance: 0.01846292 },
    ];
    expect(varianceIndex(strips)).toBeCloseTo(13.69, 2);
    // Outside the expiries it is flat in vol, as constant-maturity vols are.
    expect(varianceIndex(strips, 10)).toBeCloseTo(100 * Math.sqrt(0.01846292), 10);
    expect(varianceIndex(strips.slice(1))).toBeCloseTo(100 * Math.sqrt(0.01846292), 10);
    expect(varianceIndex([])).toBeNaN();
  });
  it('by the published rule alone goes on beyond both expiries', () => {
    const strips = [
      { minutes: 35_924, variance: 0.01846292 },
      { minutes: 46_394, variance: 0.01882101 },
    ] as const;
    expect(publishedIndex(strips)).toBeCloseTo(13.69, 2);
    // The line of total variance through both, by hand.
    const total = ({ minutes, variance }: { minutes: number; variance: number }) => (minutes * variance) / 525_600;
    const slope = (total(strips[1]) - total(strips[0])) / (46_394 - 35_924);
    const beyond = total(strips[1]) + slope * (60 * 1440 - 46_394);
    expect(publishedIndex(strips, 60)).toBeCloseTo(100 * Math.sqrt((beyond * 365) / 60), 10);
    expect(publishedIndex([strips[0], strips[0]])).toBeNaN();
  });
  it('of quotes by the published rule: the forward by parity where call and put are nearest', () => {
    const years = 0.1;
    const rate = 0.03;
    const forward = 100.4;
    const strikes = Array.from({ length: 1201 }, (_, i) => {
      const strike = 20 + 0.25 * i;
      const of = (side: Side) =>
        priceContract({ model: 'black-76', side, forward, strike, years, rate, vol: 0.2 }).price;
      const [call, put] = [of('call'), of('put')];
      const bid = (price: number) => (price > 0.005 ? price - 0.005 : 0);
      return { strike, callBid: bid(call), callAsk: call + 0.005, putBid: bid(put), putAsk: put + 0.005 };
    });
    const strip = publishedStrip({ minutes: years * 525_600, rate, strikes })!;
    expect(strip.forward).toBeCloseTo(forward, 9);
    expect(strip.k0).toBe(100.25);
    expect(Math.sqrt(strip.variance)).toBeCloseTo(0.2, 3);
    expect(strip.strikesUsed).toBeLessThan(1201);
    expect(
      publishedStrip({ minutes: 1000, rate, strikes: strikes.map((one) => ({ ...one, callBid: null })) }),
    ).toBeNull();
  });
  it('of a flat market is its vol, with strikes fine and wide enough', () => {
    const strike = Float64Array.from({ length: 1201 }, (_, i) => 20 + 0.25 * i);
    for (const vol of [0.15, 0.3]) {
      const { call, put } = quoted(flatCurve(vol, 0.1, 100.4), strike, 0);
      const strip = stripVariance({ strike, call: stripSide(call.bid), put: stripSide(put.bid) }, 100.4, 0.03, 0.1)!;
      expect(Math.sqrt(strip.variance)).toBeCloseTo(vol, 3);
      expect(strip.middle).toBe(100.25);
    }
  });
  const strike = [80, 85, 90, 95, 100, 105, 110, 115, 120];
  const calls = [20, 15, 10.5, 6.4, 3, 1.2, 0, 0.1, 0.05];
  const puts = [0.1, 0, 0.2, 0.5, 2, 5, 9, 14, 19];
  const [NO_BID, GAP] = [STRIP_MARKS.noBid, STRIP_MARKS.gap];
  it('by hand: seven strikes, and two without a bid end a side', () => {
    // K₀ = 100 at 2.5; puts 95; calls 105, 115: the single zero at 110 is passed over, the two puts are not.
    const few = { strike, call: stripSide(calls), put: stripSide([0.1, 0, 0, 0.5, 2, 5, 9, 14, 19]) };
    expect(stripVariance(few, 101, 0, 0.1)!.strikes).toBe(5);
    const fewer = { ...few, call: stripSide([20, 15, 10.5, 6.4, 3, 1.2, 0, 0.1, 0]) };
    expect(stripVariance(fewer, 101, 0, 0.1)).toBeNull();
    const strip = stripVariance({ strike, call: stripSide(calls), put: stripSide(puts) }, 101, 0, 0.1)!;
    // 80 (to 90: 10), 90 (7.5), 95 (5), 100 (5), 105 (7.5), 115 (7.5), 120 (5)
    const sum =
      (10 * 0.1) / 80 ** 2 +
      (7.5 * 0.2) / 90 ** 2 +
      (5 * 0.5) / 95 ** 2 +
      (5 * 2.5) / 100 ** 2 +
      (7.5 * 1.2) / 105 ** 2 +
      (7.5 * 0.1) / 115 ** 2 +
      (5 * 0.05) / 120 ** 2;
    expect(strip.strikes).toBe(7);
    expect(strip.variance).toBeCloseTo((2 * sum - 0.01 ** 2) / 0.1, 12);
  });
  it('what cannot be meant is a gap that ends nothing, however many stand beside each other', () => {
    const puts1 = stripSide(puts, { 2: GAP, 3: GAP });
    const strip = stripVariance({ strike, call: stripSide(calls), put: puts1 }, 101, 0, 0.1)!;
    // 80 (to 100: 20), 100 (12.5), 105 (7.5), 115 (7.5), 120 (5): the put at 80 is still there.
    const sum =
      (20 * 0.1) / 80 ** 2 +
      (12.5 * 2.5) / 100 ** 2 +
      (7.5 * 1.2) / 105 ** 2 +
      (7.5 * 0.1) / 115 ** 2 +
      (5 * 0.05) / 120 ** 2;
    expect(strip.strikes).toBe(5);
    expect(strip.variance).toBeCloseTo((2 * sum - 0.01 ** 2) / 0.1, 12);
  });
  it('at K₀ the good side stands for both by parity, and where there is none the next strike is K₀', () => {
    const both = stripVariance({ strike, call: stripSide(calls), put: stripSide(puts) }, 101, 0, 0.1)!;
    for (const mark of [NO_BID, GAP]) {
      // C − P = 1 at 100, as the quotes have it: either side alone says the same.
      const withoutPut = stripVariance(
        { strike, call: stripSide(calls), put: stripSide(puts, { 4: mark }) },
        101,
        0,
        0.1,
      )!;
      const withoutCall = stripVariance(
        { strike, call: stripSide(calls, { 4: mark }), put: stripSide(puts) },
        101,
        0,
        0.1,
      )!;
      expect(withoutPut.variance).toBeCloseTo(both.variance, 12);
      expect(withoutCall.variance).toBeCloseTo(both.variance, 12);
    }
    const neither = { strike, call: stripSide(calls, { 4: GAP }), put: stripSide(puts, { 4: GAP }) };
    expect(stripVariance(neither, 101, 0, 0.1)!.middle).toBe(95);
  });
});

describe('arbitrage in quotes', () => {
  const strike = Float64Array.from({ length: 15 }, (_, i) => 86 + 2 * i);
  const expiry = (name: string, years: number, half: number): QuotedExpiry => {
    const curve = naturalCurve({ theta: 0.04 * years, rho: -0.4, phi: 4 }, years, 100);
    return {
      expiry: name,
      years,
      forward: 100,
      discount: Math.exp(-0.03 * years),
      isEarly: false,
      strike,
      ...quoted(curve, strike, half),
    };
  };
  const market = () => [expiry('near', 0.1, 0.02), expiry('far', 0.3, 0.02)];
  it('is not found in prices of a surface without', () => {
    expect(findArbitrage(market())).toEqual([]);
  });
  it('a vertical, a butterfly and parity: one call too cheap, and what is left after the spread', () => {
    const [near, far] = market();
    near!.call.bid[9]! -= 0.3;
    near!.call.ask[9]! -= 0.3;
    const found = findArbitrage([near!, far!]);
    const best = (kind: string) => found.find((one) => one.kind === kind)!;
    expect(best('butterfly').strikes).toContain(104);
    // Sold and bought at the wrong end of every spread: the middle once, the wings half each.
    const butterfly = best('butterfly');
    expect(butterfly.atMid - butterfly.afterSpread).toBeCloseTo(0.04, 9);
    expect(best('parity').strikes).toContain(104);
    expect(best('parity').afterSpread).toBeCloseTo(0.3 - 0.08, 6);
    near!.call.bid[10]! += 1;
    near!.call.ask[10]! += 1;
    const vertical = findArbitrage([near!, far!]).find((one) => one.kind === 'vertical' && one.strikes[0] === 104)!;
    expect(vertical.afterSpread).toBeCloseTo(near!.call.bid[10]! - near!.call.ask[9]!, 12);
    expect(findArbitrage([{ ...near!, isEarly: true }]).some(({ kind }) => kind === 'parity')).toBe(false);
  });
  it('a calendar: more variance earlier than later', () => {
    const [near, far] = market();
    const dear = {
      ...near!,
      put: {
        ...near!.put,
        bidVol: near!.put.bidVol.map((vol) => 2 * vol),
        askVol: near!.put.askVol.map((vol) => 2 * vol),
      },
    };
    const found = findArbitrage([dear, far!]).filter(({ kind }) => kind === 'calendar');
    expect(found.length).toBeGreaterThan(3);
    expect(found.every((one) => one.side === 'put' && one.against === 'far' && one.afterSpread < one.atMid)).toBe(true);
    // Four times the variance of the near expiry against three times: earned where the excess is over the spread.
    expect(found[0]!.afterSpread).toBeGreaterThan(0);
  });
});
