import type { Side } from '../contracts/contract';
import { describe, expect, it } from 'vitest';
import { reasonName, REASONS } from '../implied';
import { priceContract } from '../models';
import { curveVol, naturalCurve, type Curve } from '../surface';
import { calendarById, instantOf } from '../time';
import {
  deriveSlice,
  refitSlice,
  deriveSnapshot,
  impliedColumns,
  midsOf,
  valueContract,
  valueSlice,
  type MarketTerms,
  type SliceQuotes,
  type Snapshot,
} from '.';
import { emptySide } from './snapshot';

const calendar = calendarById('MRX');
const terms: MarketTerms = {
  kind: 'index',
  exercise: 'european',
  calendar,
  rates: { days: [1, 400], rate: [0.04, 0.04] },
  dividends: [{ exDate: '2031-03-25', amount: 1 }],
};
const on = { kind: 'index', exercise: 'european', spot: 100 } as const;
const asof = instantOf(calendar, '2031-03-13', '15:45');

/** Quotes of a curve, a fixed half spread around its prices. */
function sliceOf(expiry: string, curve: Curve, half = 0.02): SliceQuotes {
  const strike = Float64Array.from({ length: 21 }, (_, i) => 80 + 2 * i);
  const side = (name: Side) => {
    const quotes = emptySide(strike.length);
    strike.forEach((k, i) => {
      const vol = curveVol(curve, Math.log(k / curve.forward));
      const { price } = priceContract({
        model: 'black-76',
        side: name,
        forward: curve.forward,
        strike: k,
        years: curve.years,
        rate: 0.04,
        vol,
      });
      quotes.bid[i] = price - half;
      quotes.ask[i] = price + half;
      quotes.volume[i] = 10;
    });
    return quotes;
  };
  return { expiry, settlement: 'pm', strike, call: side('call'), put: side('put') };
}

const near = naturalCurve({ theta: 0.0025, rho: -0.4, phi: 15 }, (14 * 1440 + 15) / 525600, 99.4);
const far = naturalCurve({ theta: 0.0085, rho: -0.4, phi: 8 }, (63 * 1440 + 15) / 525600, 99.9);
const snapshot: Snapshot = {
  symbol: 'TEST',
  asof,
  price: 100,
  slices: [sliceOf('2031-05-15', far), sliceOf('2031-03-27', near)],
};

describe('deriving a snapshot', () => {
  const { expiries, measures } = deriveSnapshot(snapshot, terms);
  it('orders expiries and recovers forward and curve from the quotes', () => {
    expect(expiries.map((fit) => fit.expiry)).toEqual(['2031-03-27', '2031-05-15']);
    const [first, second] = expiries;
    expect(first!.years).toBe(near.years);
    expect(first!.forward).toBeCloseTo(99.4, 8);
    expect(first!.forwardSource).toBe('parity');
    expect(first!.atmVol).toBeCloseTo(curveVol(near, 0), 6);
    for (const k of [-0.1, 0.05]) expect(curveVol(second!.curve!, k)).toBeCloseTo(curveVol(far, k), 6);
    expect(first!.sessions).toBe(10);
    expect(first!.riskReversal25).toBeLessThan(-0.005);
  });
  it('measures by hand: total variance between the two expiries', () => {
    const [a, b] = expiries;
    const [t, variance] = [30 / 365, (fit: typeof a) => fit!.atmVol ** 2 * fit!.years];
    const share = (t - a!.years) / (b!.years - a!.years);
    expect(measures.iv30).toBeCloseTo(Math.sqrt((variance(a) + share * (variance(b) - variance(a))) / t), 12);
    expect(measures.iv7).toBe(a!.atmVol);
    expect(measures.termSlope).toBeCloseTo(measures.iv90 - measures.iv30, 15);
    expect(measures.frontDeviationMove).toBeCloseTo(99.4 * a!.atmVol * Math.sqrt(a!.years), 8);
    // The strip weighs the skew: it stands a little over the vol at the forward.
    expect(measures.varianceIndex / 100 / measures.iv30).toBeGreaterThan(1);
    expect(measures.varianceIndex / 100 / measures.iv30).toBeLessThan(1.15);
    expect(measures.volume).toBe(2 * 2 * 21 * 10);
    expect(measures.putVolume).toBe(measures.volume / 2);
    expect(measures.putOpenInterest).toBe(measures.openInterest / 2);
    // Between the two expiries, of which one leans less than the other; further out more.
    const reversals = expiries.map(({ riskReversal25 }) => riskReversal25);
    expect(measures.riskReversal25).toBeGreaterThan(Math.min(...reversals));
    expect(measures.riskReversal25).toBeLessThan(Math.max(...reversals));
    expect(measures.riskReversal10).toBeLessThan(measures.riskReversal25);
    expect(measures.butterfly10).toBeGreaterThan(measures.butterfly25);
    expect(measures.frontStraddleMove / measures.frontDeviationMove).toBeCloseTo(0.8, 1);
  });
  it('counts contracts by the reason why they have no vol', () => {
    const slice = sliceOf('2031-03-27', near);
    slice.call.bid[3] = 0;
    slice.put.bid[12] = slice.put.ask[12]! + 1;
    const fit = deriveSlice(slice, snapshot, terms);
    expect(fit.contracts).toBe(42);
    expect(fit.refused.reduce((sum, n) => sum + n)).toBe(42);
    const vols = impliedColumns(slice.strike, slice.put, fit, -1, on);
    expect(reasonName(vols.reason[12]!)).toBe('crossed');
    expect(vols.mid[12]).toBeNaN();
    expect(fit.atmVol).toBeCloseTo(curveVol(near, 0), 4);
  });
  it('falls back to spot, dividends and rate where parity has nothing to hold on to', () => {
    const slice = sliceOf('2031-03-27', near);
    slice.put.bid.fill(0);
    const fit = deriveSlice(slice, snapshot, terms);
    expect(fit.forwardSource).toBe('carry');
    const paidIn = (instantOf(calendar, '2031-03-25', '09:30') - asof) / 60000 / 525600;
    expect(fit.forward).toBeCloseTo((100 - Math.exp(-0.04 * paidIn)) * Math.exp(0.04 * near.years), 12);
  });
  it('an expiry that is over has no curve, only a reason', () => {
    const fit = deriveSlice(sliceOf('2031-03-12', near), snapshot, terms);
    expect(fit.curve).toBeNull();
    expect(fit.usable).toBe(0);
  });
});

describe('fitting an expiry again', () => {
  const slice = sliceOf('2031-03-27', near);
  const fit = deriveSlice(slice, snapshot, terms);
  const solved = (aside: typeof fit.aside) => {
    const wanted = { ...fit, aside };
    return [1, -1].map((sign) => impliedColumns(slice.strike, sign > 0 ? slice.call : slice.put, wanted, sign, on)) as [
      ReturnType<typeof impliedColumns>,
      ReturnType<typeof impliedColumns>,
    ];
  };
  it('with the same quotes changes nothing', () => {
    expect(refitSlice(slice, fit, ...solved(fit.aside))).toEqual(fit);
  });
  it('without a quote is what deriving it says, where the forward does not depend on it', () => {
    const [, puts] = solved(fit.aside);
    const one = {
      strike: slice.strike[puts.reason.indexOf(0)]!,
      side: 'put' as const,
      reason: REASONS.indexOf('by-hand'),
    };
    const said = { ...one, expiry: slice.expiry, settlement: slice.settlement, decision: 'aside' as const };
    const derived = deriveSlice(slice, snapshot, terms, { exclusions: [said] });
    const again = refitSlice(slice, { ...fit, aside: [one] }, ...solved([one]));
    expect(again.usable).toBe(fit.usable - 1);
    expect(again.aside).toEqual(derived.aside);
    expect(again.curve!.parameters).toEqual(derived.curve!.parameters.map((value) => expect.closeTo(value, 9)));
    expect(again.riskReversal25).toBeCloseTo(derived.riskReversal25, 9);
  });
});

describe('an expiry of few quotes', () => {
  /** The expiry with the quotes of some strikes alone. */
  const few = (strikes: readonly number[], lift = 0): SliceQuotes => {
    const slice = sliceOf('2031-03-27', near, 0.05);
    slice.strike.forEach((level, i) => {
      for (const side of [slice.call, slice.put]) {
        if (!strikes.includes(level)) side.bid[i] = side.ask[i] = NaN;
        else for (const name of ['bid', 'ask'] as const) side[name][i]! += lift;
      }
    });
    return slice;
  };
  const past = { snapshot, expiries: deriveSnapshot(snapshot, terms).expiries };
  const derived = (slice: SliceQuotes, context: Parameters<typeof deriveSnapshot>[2]) =>
    deriveSnapshot({ ...snapshot, slices: [slice, snapshot.slices[0]!] }, terms, context);

  it('has one vol and no skew, and says so', () => {
    const [fit] = derived(few([98, 100, 102]), {}).expiries;
    expect(fit).toMatchObject({ shape: 'own', curve: { kind: 'flat' }, expiryAside: null });
    expect([fit!.riskReversal25, fit!.butterfly25, fit!.riskReversal10, fit!.butterfly10]).toEqual([
      NaN,
      NaN,
      NaN,
      NaN,
    ]);
    expect(Math.abs(fit!.atmVol - curveVol(near, 0))).toBeLessThan(3 * fit!.atmVolUncertainty + 0.002);
  });
  it('takes the shape of the session before, where there was one', () => {
    const { expiries, measures } = derived(few([98, 100, 102]), { before: past });
    expect(expiries[0]).toMatchObject({ shape: 'past', curve: { kind: 'svi' } });
    for (const k of [-0.1, 0, 0.06]) expect(curveVol(expiries[0]!.curve!, k)).toBeCloseTo(curveVol(near, k), 3);
    expect(expiries[0]!.riskReversal25).toBeCloseTo(past.expiries[0]!.riskReversal25, 3);
    expect(Number.isFinite(measures.riskReversal25)).toBe(true);
  });
  it('is set aside where its vol is out of line with its neighbours and with the session before', () => {
    const middle = naturalCurve({ theta: 0.0052, rho: -0.4, phi: 10 }, (35 * 1440 + 15) / 525600, 99.6);
    const third = sliceOf('2031-04-17', middle);
    const slices = [few([98, 100, 102], 1.2), third, snapshot.slices[0]!];
    const whole = { ...snapshot, slices: [sliceOf('2031-03-27', near), third, snapshot.slices[0]!] };
    const before = { snapshot: whole, expiries: deriveSnapshot(whole, terms).expiries };
    const { expiries, measures } = deriveSnapshot({ ...snapshot, slices }, terms, { before });
    expect(expiries.map(({ expiryAside }) => expiryAside)).toEqual(['off-term', null, null]);
    expect(measures.frontExpiry).toBe('2031-04-17');
    // Somebody may want it all the same.
    const use = { expiry: '2031-03-27', settlement: 'pm', strike: null, side: null, decision: 'use' } as const;
    const wanted = deriveSnapshot({ ...snapshot, slices }, terms, { before, exclusions: [use] });
    expect(wanted.expiries[0]!.expiryAside).toBeNull();
  });
});

describe('valuing under a basis', () => {
  const fit = deriveSlice(snapshot.slices[1]!, snapshot, terms);
  const slice = snapshot.slices[1]!;
  const vols = impliedColumns(slice.strike, slice.put, fit, -1, on);
  const known = { own: vols.mid, mid: midsOf(slice.put) };
  const value = (basis: 'own' | 'curve' | 'level' | 'index' | 'realized') =>
    valueSlice(slice.strike, fit, on, { basis, realizedVol: 0.13, indexVol: 0.17 }, known, -1);
  it('own gives the mid back; level is one vol for all; realized is the number given', () => {
    const own = value('own');
    slice.strike.forEach((_, i) => {
      if (vols.reason[i] === 0) expect(own.theory[i]).toBeCloseTo(0.5 * (slice.put.bid[i]! + slice.put.ask[i]!), 9);
    });
    expect(new Set(value('level').vol).size).toBe(1);
    expect(value('level').vol[0]).toBeCloseTo(fit.atmVol, 12);
    expect(value('realized').vol[4]).toBe(0.13);
    expect(value('index').vol[4]).toBe(0.17);
  });
  it('on the curve the odds count its slope, and say what they would be without', () => {
    const index = 5;
    const one = valueContract(
      index,
      slice.strike,
      fit,
      on,
      { basis: 'curve', realizedVol: NaN, indexVol: NaN },
      known,
      -1,
    );
    expect(one.itm).toBe(value('curve').itm[index]);
    // Where vol falls with the strike, −∂P/∂K with the vol moving is under N(−d₂): ∂σ/∂K < 0 lowers the put's odds.
    expect(one.itm).toBeLessThan(one.flatItm);
    expect(one.touch).toBeGreaterThan(one.itm);
    expect(one.theory).toBe(value('curve').theory[index]);
  });
  it('a future is valued on its forward, and its rho holds it', () => {
    const future = valueSlice(
      slice.strike,
      fit,
      { ...on, kind: 'future' },
      { basis: 'level', realizedVol: NaN, indexVol: NaN },
      known,
      1,
    );
    const direct = priceContract({
      model: 'black-76',
      side: 'call',
      forward: fit.forward,
      strike: 100,
      years: fit.years,
      rate: fit.rate,
      vol: fit.atmVol,
    });
    expect(future.theory[10]).toBeCloseTo(direct.price, 12);
    expect(future.rho[10]).toBeCloseTo(direct.rho, 12);
  });
});
