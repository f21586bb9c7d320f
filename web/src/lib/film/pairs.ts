import {
  constantMaturityVol,
  listedPair,
  pairOn,
  surfaceGrid,
  type Curve,
  type EquidistantPair,
  type GridAxis,
} from '@umwelt/core';
import { usedExpiries, type CurveExpiry } from './frame';
import type { PastMoment } from './past';

/** Where the two strikes of a pair stand, and how far from expiry. */
export type PairPlace = { years: number } & (
  | {
      /** `forward` for per cent of it, `standardized` for deviations. */
      axis: Extract<GridAxis, 'forward' | 'standardized'>;
      put: number;
      call: number;
    }
  | {
      /** By the strikes that were listed at each moment. */
      axis: 'steps';
      size: number;
    }
);

/** Vols of a pair through time and the ratio of its prices, NaN where the expiries do not reach. */
export interface PairPast {
  putVol: Float64Array;
  callVol: Float64Array;
  ratio: Float64Array;
}

/** The pair in listed strikes of an expiry; null where not enough of them are known. */
export function listedPairOf(
  { near, curve, rate }: Pick<CurveExpiry, 'near' | 'rate'> & { curve: Curve },
  size: number,
): EquidistantPair | null {
  const strikes = near ? listedPair(near, curve.forward, size) : null;
  return strikes && pairOn(curve, rate, strikes);
}

/** Vols and ratio of listed pairs at a time between the expiries that have one: as vols are, and the ratio by time. */
function listedAt(terms: readonly (CurveExpiry & { curve: Curve })[], size: number, years: number) {
  const pairs = terms.flatMap((one) => {
    const pair = listedPairOf(one, size);
    return pair ? [{ ...pair, years: one.years }] : [];
  });
  const after = pairs.findIndex((one) => one.years >= years);
  const far = pairs[after];
  if (!far || (after === 0 && far.years > years)) return null;
  const near = pairs[Math.max(0, after - 1)]!;
  const share = far === near ? 1 : (years - near.years) / (far.years - near.years);
  const vol = (side: 'putVol' | 'callVol') =>
    constantMaturityVol(
      pairs.map((one) => ({ years: one.years, vol: one[side] })),
      years,
    );
  return { putVol: vol('putVol'), callVol: vol('callVol'), ratio: near.ratio + share * (far.ratio - near.ratio) };
}

/** The same pair at the same time to expiry at every moment, between its expiries. */
export function pairsOverTime(moments: readonly PastMoment[], place: PairPlace): PairPast {
  const { years } = place;
  const past: PairPast = {
    putVol: new Float64Array(moments.length).fill(NaN),
    callVol: new Float64Array(moments.length).fill(NaN),
    ratio: new Float64Array(moments.length).fill(NaN),
  };
  moments.forEach(({ frame, surface }, i) => {
    const terms = usedExpiries(frame);
    const [first, last] = [terms[0], terms.at(-1)];
    if (!first || !last || years < first.years || years > last.years) return;
    if (place.axis === 'steps') {
      const found = listedAt(terms, place.size, years);
      if (found) for (const name of ['putVol', 'callVol', 'ratio'] as const) past[name][i] = found[name];
      return;
    }
    const { axis, put, call } = place;
    const read = (quantity: 'vol' | 'price', side: 'put' | 'call') =>
      surfaceGrid({ surface, terms, spot: null, quantity, side, axis, positions: [put, call], years: [years] })[0]!;
    const vols = read('vol', 'put');
    past.putVol[i] = vols[0]!;
    past.callVol[i] = vols[1]!;
    past.ratio[i] = read('price', 'put')[0]! / read('price', 'call')[1]!;
  });
  return past;
}
