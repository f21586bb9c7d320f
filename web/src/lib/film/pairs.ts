import { surfaceGrid, type GridAxis } from '@umwelt/core';
import { usedExpiries } from './frame';
import type { PastMoment } from './past';

/** Where the two strikes of a pair stand, and how far from expiry. */
export interface PairPlace {
  /** `forward` for per cent of it, `standardized` for deviations. */
  axis: Extract<GridAxis, 'forward' | 'standardized'>;
  put: number;
  call: number;
  years: number;
}

/** Vols of a pair through time and the ratio of its prices, NaN where the expiries do not reach. */
export interface PairPast {
  putVol: Float64Array;
  callVol: Float64Array;
  ratio: Float64Array;
}

/** The same pair at the same time to expiry at every moment, between its expiries. */
export function pairsOverTime(moments: readonly PastMoment[], { axis, put, call, years }: PairPlace): PairPast {
  const past: PairPast = {
    putVol: new Float64Array(moments.length).fill(NaN),
    callVol: new Float64Array(moments.length).fill(NaN),
    ratio: new Float64Array(moments.length).fill(NaN),
  };
  moments.forEach(({ frame, surface }, i) => {
    const terms = usedExpiries(frame);
    const [first, last] = [terms[0], terms.at(-1)];
    if (!first || !last || years < first.years || years > last.years) return;
    const read = (quantity: 'vol' | 'price', side: 'put' | 'call') =>
      surfaceGrid({ surface, terms, spot: null, quantity, side, axis, positions: [put, call], years: [years] })[0]!;
    const vols = read('vol', 'put');
    past.putVol[i] = vols[0]!;
    past.callVol[i] = vols[1]!;
    past.ratio[i] = read('price', 'put')[0]! / read('price', 'call')[1]!;
  });
  return past;
}
