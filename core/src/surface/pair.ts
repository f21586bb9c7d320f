import { priceContract } from '../models';
import { curveVol, type Curve } from './curve';

/** How far from the forward the two strikes of a pair are: listed strikes, a share of the forward, or deviations. */
export const PAIR_UNITS = ['steps', 'percent', 'deviations'] as const;
export type PairUnit = (typeof PAIR_UNITS)[number];

/** The out-of-the-money put and call at equal distances from the forward. */
export interface EquidistantPair {
  readonly putStrike: number;
  readonly callStrike: number;
  /** Of the curve at the strikes, decimals. */
  readonly putVol: number;
  readonly callVol: number;
  /** By those vols, discounted, per unit. */
  readonly putPrice: number;
  readonly callPrice: number;
  /** Put price over call price. */
  readonly ratio: number;
  /** Put vol less call vol. */
  readonly gap: number;
}

/**
 * The strikes of a pair on a continuous scale.
 *
 * @param unit `percent`: forward·(1 ∓ size/100), both as far in money; `deviations`: forward·e^(∓size·σ√T) with the vol at
 *   the forward
 */
export function pairStrikes(curve: Curve, unit: Exclude<PairUnit, 'steps'>, size: number): [put: number, call: number] {
  const { forward, years } = curve;
  if (unit === 'percent') return [forward * (1 - size / 100), forward * (1 + size / 100)];
  const reach = size * curveVol(curve, 0) * Math.sqrt(years);
  return [forward * Math.exp(-reach), forward * Math.exp(reach)];
}

/**
 * The listed strikes some steps under and over the forward; the first step is the nearest strike on each side.
 *
 * @param strikes ascending
 * @param steps from 1 on
 * @returns null where too few are listed
 */
export function listedPair(
  strikes: ArrayLike<number>,
  forward: number,
  steps: number,
): [put: number, call: number] | null {
  let under = -1;
  while (under + 1 < strikes.length && strikes[under + 1]! < forward) under++;
  let over = under + 1;
  if (strikes[over] === forward) over++;
  const put = strikes[under - steps + 1];
  const call = strikes[over + steps - 1];
  return put === undefined || call === undefined ? null : [put, call];
}

/** A pair with the vols and prices that the curve gives it. */
export function pairOn(
  curve: Curve,
  rate: number,
  [putStrike, callStrike]: readonly [number, number],
): EquidistantPair {
  const { forward, years } = curve;
  const vol = (strike: number) => curveVol(curve, Math.log(strike / forward));
  const price = (side: 'put' | 'call', strike: number) =>
    priceContract({ model: 'black-76', side, forward, strike, years, rate, vol: vol(strike) }).price;
  const [putVol, callVol] = [vol(putStrike), vol(callStrike)];
  const [putPrice, callPrice] = [price('put', putStrike), price('call', callStrike)];
  return {
    putStrike,
    callStrike,
    putVol,
    callVol,
    putPrice,
    callPrice,
    ratio: putPrice / callPrice,
    gap: putVol - callVol,
  };
}
