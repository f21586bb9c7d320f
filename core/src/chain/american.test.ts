import type { Side } from '../contracts/contract';
import { describe, expect, it } from 'vitest';
import { parityForward } from '../implied';
import { priceContract } from '../models';
import { calendarById, expiryInstant, instantOf, yearsBetween } from '../time';
import {
  deriveSlice,
  expiryTerms,
  impliedColumns,
  midsOf,
  SIDE_VALUES,
  valueContract,
  valueSlice,
  type MarketTerms,
  type SliceQuotes,
} from '.';
import { emptySide } from './snapshot';

const calendar = calendarById('MRX');
const asof = instantOf(calendar, '2031-03-13', '15:45');
const RATE = 0.042;
const terms: MarketTerms = {
  kind: 'equity',
  exercise: 'american',
  calendar,
  rates: { days: [1, 400], rate: [RATE, RATE] },
  dividends: [],
};
const on = { kind: 'equity', exercise: 'american', spot: 100 } as const;

/** American quotes at a yield, vols falling with the strike. */
function sliceOf(
  expiry: string,
  carryYield: number,
  half = 0.03,
): { slice: SliceQuotes; vols: Float64Array; years: number } {
  const years = yearsBetween(asof, expiryInstant(calendar, expiry, 'pm'));
  const strike = Float64Array.from({ length: 25 }, (_, i) => 70 + 2.5 * i);
  const vols = strike.map((k) => 0.25 - 0.15 * Math.log(k / 100));
  const side = (name: Side) => {
    const quotes = emptySide(strike.length);
    strike.forEach((k, i) => {
      const contract = {
        model: 'american',
        side: name,
        spot: 100,
        strike: k,
        years,
        rate: RATE,
        yield: carryYield,
      } as const;
      const { price } = priceContract({ ...contract, vol: vols[i]! });
      quotes.bid[i] = Math.max(0, price - half);
      quotes.ask[i] = price + half;
      quotes.volume[i] = 1;
    });
    return quotes;
  };
  return { slice: { expiry, settlement: 'pm', strike, call: side('call'), put: side('put') }, vols, years };
}

describe('a chain with early exercise', () => {
  it.each([
    ['2031-04-17', 0.03],
    ['2031-09-18', 0.05],
    ['2032-03-18', 0],
    ['2032-03-18', 0.08],
  ])('expiring on %s at a yield of %d: forward and vols that the quotes were made with', (expiry, carryYield) => {
    const { slice, vols, years } = sliceOf(expiry, carryYield);
    const snapshot = { symbol: 'TEST', asof, price: 100, slices: [slice] };
    const fit = deriveSlice(slice, snapshot, terms);
    const forward = 100 * Math.exp((RATE - carryYield) * years);
    expect(fit.forwardSource).toBe('parity');
    expect(Math.abs(fit.forward - forward)).toBeLessThan(0.1 * fit.forwardUncertainty);
    expect(Math.abs(expiryTerms(on, fit).yield - carryYield) * years * 100).toBeLessThan(0.11 * fit.forwardUncertainty);
    for (const [side, sign] of [
      ['call', 1],
      ['put', -1],
    ] as const) {
      const { mid, reason } = impliedColumns(slice.strike, slice[side], fit, sign, on);
      slice.strike.forEach((k, i) => {
        if (sign * (k - forward) > 0 && reason[i] === 0) expect(mid[i]).toBeCloseTo(vols[i]!, 4);
      });
    }
    expect(fit.atmVol).toBeCloseTo(0.25 - 0.15 * Math.log(forward / 100), 2);
  });
  it('taken as European the same quotes say another forward, or none', () => {
    const { slice, years } = sliceOf('2032-03-18', 0);
    const snapshot = { symbol: 'TEST', asof, price: 100, slices: [slice] };
    const forward = 100 * Math.exp(RATE * years);
    const quotes = {
      strike: slice.strike,
      ...{ callBid: slice.call.bid, callAsk: slice.call.ask, putBid: slice.put.bid, putAsk: slice.put.ask },
    };
    const european = parityForward(quotes, Math.exp(-RATE * years), forward);
    if (european) expect(Math.abs(european.forward - forward)).toBeGreaterThan(5 * european.uncertainty);
    expect(Math.abs(deriveSlice(slice, snapshot, terms).forward - forward)).toBeLessThan(0.005);
  });
  it('puts that are about to be exercised do not pull the forward, however narrow their spreads are', () => {
    // Deep puts a third of a tick over what exercising earns, quoted closer than anything else.
    const { slice, years } = sliceOf('2031-09-18', 0, 0.08);
    const forward = 100 * Math.exp(RATE * years);
    const narrow = slice.put.bid.map((bid, i) => (slice.strike[i]! >= 120 ? slice.strike[i]! - 100 : bid));
    const pulled = {
      ...slice,
      put: {
        ...slice.put,
        bid: narrow,
        ask: slice.put.ask.map((ask, i) => (slice.strike[i]! >= 120 ? narrow[i]! + 0.01 : ask)),
      },
    };
    const fit = deriveSlice(pulled, { symbol: 'TEST', asof, price: 100, slices: [pulled] }, terms);
    expect(fit.forwardSource).toBe('parity');
    expect(Math.abs(fit.forward - forward)).toBeLessThan(fit.forwardUncertainty);
  });
  it('an expiry of which everything is about to be exercised has the forward by carry', () => {
    const { slice } = sliceOf('2031-03-20', 0);
    const deep = Float64Array.from(slice.strike, (_, i) => 140 + i);
    const side = (bids: Float64Array, ask: number) => ({ ...slice.put, bid: bids, ask: bids.map((bid) => bid + ask) });
    const all = {
      ...slice,
      strike: deep,
      call: side(
        deep.map(() => 0.01),
        0.01,
      ),
      put: side(
        deep.map((k) => k - 100),
        0.01,
      ),
    };
    const fit = deriveSlice(all, { symbol: 'TEST', asof, price: 100, slices: [all] }, terms);
    expect(fit.forwardSource).toBe('carry');
    expect(fit.forward).toBeCloseTo(100 * Math.exp(RATE * fit.years), 9);
  });

  const { slice } = sliceOf('2031-09-18', 0.05);
  const fit = deriveSlice(slice, { symbol: 'TEST', asof, price: 100, slices: [slice] }, terms);
  const own = {
    call: impliedColumns(slice.strike, slice.call, fit, 1, on),
    put: impliedColumns(slice.strike, slice.put, fit, -1, on),
  };
  const choice = { basis: 'own', realizedVol: NaN, indexVol: NaN } as const;
  it('on the own basis gives the mid back, with the Greeks of the precise setting', () => {
    for (const [side, sign] of [
      ['call', 1],
      ['put', -1],
    ] as const) {
      const values = valueSlice(slice.strike, fit, on, choice, { own: own[side].mid, mid: midsOf(slice[side]) }, sign);
      for (const i of [6, 10, 12, 15, 18]) {
        const { bid, ask } = slice[side];
        // Solved and valued on boundaries between vols of their own: 2e-7 of the spot apart.
        expect(Math.abs(values.theory[i]! - 0.5 * (bid[i]! + ask[i]!))).toBeLessThan(2e-5);
        const exact = priceContract({
          model: 'american',
          side,
          strike: slice.strike[i]!,
          vol: values.vol[i]!,
          ...expiryTerms(on, fit),
        });
        for (const name of ['delta', 'gamma', 'theta', 'vega', 'rho'] as const) {
          expect(Math.abs(values[name][i]! - exact[name]), `${side} ${i} ${name}`).toBeLessThan(
            2e-3 * Math.abs(exact[name]) + 2e-5,
          );
        }
      }
    }
  });
  it('one contract by itself has the numbers that it has in its chain', () => {
    const values = valueSlice(slice.strike, fit, on, choice, { own: own.put.mid, mid: midsOf(slice.put) }, -1);
    const one = valueContract(10, slice.strike, fit, on, choice, { own: own.put.mid, mid: midsOf(slice.put) }, -1);
    for (const name of SIDE_VALUES) {
      expect(one[name], name).toBe(values[name][10]);
    }
  });
  it('a future is its own forward, at the rate as its yield', () => {
    const future = expiryTerms({ ...on, kind: 'future' }, fit);
    expect([future.spot, future.yield]).toEqual([fit.forward, fit.rate]);
    expect(expiryTerms({ ...on, spot: NaN }, fit).yield).toBeCloseTo(0, 12);
  });
});
