import {
  calendarById,
  curveVol,
  deriveSnapshot,
  emptySide,
  impliedColumns,
  instantOf,
  midsOf,
  naturalCurve,
  priceContract,
  valueSlice,
  writtenOn,
  type Basis,
  type Curve,
  type SideQuotes,
  type SideVols,
  type SliceQuotes,
  type Side,
} from '@umwelt/core';
import { indexVolOf } from '$lib/data/measures';
import type { Valued } from '$lib/data/valued';
import { choiceOf, type PricingTerms } from '$lib/data/pricing';
import type { LoadedSnapshot, Summary, ValuedSlice } from '$lib/data/snapshot';

/** Snapshots for tests, quoted around known curves of the invented exchange. */

const calendar = calendarById('MRX');
export const ASOF = instantOf(calendar, '2031-03-13', '15:45');
export const EXPIRIES = ['2031-03-27', '2031-04-17', '2031-06-19'] as const;
const RATE = 0.04;

function curveOf(expiry: string, forward: number): Curve {
  const years = (Date.parse(`${expiry}T17:00Z`) - ASOF) / (365 * 86_400_000);
  const theta = 0.04 * years;
  return naturalCurve({ theta, rho: -0.5, phi: 0.9 / Math.sqrt(theta) }, years, forward);
}

function sliceOf(expiry: string, half: number): SliceQuotes {
  const strike = Float64Array.from({ length: 13 }, (_, i) => 88 + 2 * i);
  const curve = curveOf(expiry, 100.3);
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
        rate: RATE,
        vol,
      });
      quotes.bid[i] = Math.max(0, price - half);
      quotes.ask[i] = price + half;
      quotes.volume[i] = 10 + i;
      quotes.openInterest[i] = 100 * (i + 1);
    });
    return quotes;
  };
  return { expiry, settlement: 'pm', strike, call: side('call'), put: side('put') };
}

/** A snapshot of an index at 100 with three expiries of 13 strikes. */
export function makeSnapshot(half = 0.02): LoadedSnapshot {
  const snapshot = { symbol: 'TEST', asof: ASOF, price: 100, slices: EXPIRIES.map((expiry) => sliceOf(expiry, half)) };
  const terms = {
    kind: 'index',
    exercise: 'european',
    calendar,
    rates: { days: [1], rate: [RATE] },
    dividends: [],
  } as const;
  const { expiries, measures } = deriveSnapshot(snapshot, terms);
  const asof = new Date(ASOF).toISOString();
  return {
    symbol: 'TEST',
    asof,
    instant: ASOF,
    kind: 'index',
    exercise: 'european',
    price: 100,
    measures: { asof, ...measures } as Summary,
    slices: snapshot.slices.map((slice, i) => ({ ...slice, fit: expiries[i]! })),
  };
}

const NO_BARS = new Float64Array();

/** The snapshot with its values under a basis, as the worker makes them. */
export function makeValued(snapshot: LoadedSnapshot, basis: Basis = 'curve', realizedVol = 0.15): Valued {
  const on = writtenOn(snapshot, snapshot);
  const terms: PricingTerms = {
    manual: { kind: 'vol', value: 0.25 },
    indexVol: indexVolOf(snapshot),
    realizedVols: snapshot.slices.map(() => realizedVol),
    past: null,
    usualPast: { bars: { close: NO_BARS, high: NO_BARS, low: NO_BARS }, sampling: 'stretches', drift: 'forward' },
  };
  const values = snapshot.slices.map((slice, i): ValuedSlice => {
    const callVols = impliedColumns(slice.strike, slice.call, slice.fit, 1, on);
    const putVols = impliedColumns(slice.strike, slice.put, slice.fit, -1, on);
    const of = (quoted: SideQuotes, { mid: own }: SideVols, sign: number) =>
      valueSlice(slice.strike, slice.fit, on, choiceOf(basis, terms, i, undefined), { own, mid: midsOf(quoted) }, sign);
    return { call: of(slice.call, callVols, 1), put: of(slice.put, putVols, -1), callVols, putVols };
  });
  return { snapshot, values, basis, quotes: 'mid', terms };
}

/** Colours of a theme, each one different. */
export const TOKENS = {
  panel: '#ffffff',
  band: '#eeeeee',
  line: '#cccccc',
  ink: '#000000',
  soft: '#555555',
  faint: '#888888',
  focus: '#d1432b',
  implied: '#5b3fa0',
  realized: '#5c7a1c',
  gain: '#0e7c7b',
  loss: '#b4571e',
  depths: ['#b97a00', '#5e9a3c', '#17938a', '#1f7aa8', '#2b55a0', '#3d2f86', '#4a1a66'],
};
