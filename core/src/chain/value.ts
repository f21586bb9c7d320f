import { makeFirstOrder, priceEuropean, touchProbability } from '../models';
import { oddsAbove } from '../odds';
import { curveSlope, curveVol } from '../surface';
import type { ExpiryFit } from './derive';
import type { MarketTerms } from './snapshot';

/** The vol bases that exist so far, in the order in which the screen steps through them. */
export const BASES = ['curve', 'own', 'level', 'realized'] as const;
export type Basis = (typeof BASES)[number];

/** A basis, with the number that `realized` brings along. */
export interface BasisChoice {
  readonly basis: Basis;
  /** Historical vol for `realized`; NaN when too few bars are held. */
  readonly realizedVol: number;
}

/** Theoretical values of one side, aligned with the strikes; NaN where the basis gives no vol. */
export interface SideValues {
  readonly vol: Float64Array;
  readonly theory: Float64Array;
  readonly delta: Float64Array;
  readonly gamma: Float64Array;
  readonly theta: Float64Array;
  readonly vega: Float64Array;
  readonly rho: Float64Array;
  readonly itm: Float64Array;
}

function basisVols(
  strike: Float64Array,
  fit: ExpiryFit,
  choice: BasisChoice,
  own: Float64Array,
  out: Float64Array,
): void {
  for (let i = 0; i < strike.length; i++) {
    if (choice.basis === 'own') out[i] = own[i]!;
    else if (choice.basis === 'realized') out[i] = choice.realizedVol;
    else if (!fit.curve) out[i] = NaN;
    else out[i] = curveVol(fit.curve, choice.basis === 'level' ? 0 : Math.log(strike[i]! / fit.forward));
  }
}

/**
 * Values one side of an expiry under a vol basis: European, on the forward of the expiry (the spot and
 * the yield that leads from it to the forward; for futures the forward itself).
 * The odds on the `curve` basis count the slope of the curve, on the others they are N(±d₂).
 *
 * @param spot price of the underlying
 * @param own implied vols of the side at the quote in use, for `own`
 * @param sign +1 calls, −1 puts
 */
export function valueSlice(
  strike: Float64Array,
  fit: ExpiryFit,
  spot: number,
  kind: MarketTerms['kind'],
  choice: BasisChoice,
  own: Float64Array,
  sign: number,
): SideValues {
  const count = strike.length;
  const fill = (value: number) => new Float64Array(count).fill(value);
  const isFuture = kind === 'future';
  const carryYield = isFuture ? fit.rate : fit.rate - Math.log(fit.forward / spot) / fit.years;
  const vol = new Float64Array(count);
  basisVols(strike, fit, choice, own, vol);
  const out = makeFirstOrder(count);
  const columns = {
    spot: fill(isFuture ? fit.forward : spot),
    strike,
    years: fill(fit.years),
    rate: fill(fit.rate),
    yield: fill(carryYield),
    vol,
    sign: fill(sign),
  };
  priceEuropean(columns, out, count);
  if (isFuture) for (let i = 0; i < count; i++) out.rho[i] = -fit.years * out.price[i]! * 0.01;
  if (choice.basis === 'curve' && fit.curve) {
    for (let i = 0; i < count; i++) {
      const k = Math.log(strike[i]! / fit.forward);
      const above = oddsAbove(k, vol[i]!, curveSlope(fit.curve, k), fit.years);
      out.itm[i] = sign > 0 ? above : 1 - above;
    }
  }
  const { price: theory, delta, gamma, theta, vega, rho, itm } = out;
  return { vol, theory, delta, gamma, theta, vega, rho, itm };
}

/** What the close-up shows of one contract under one basis; NaN where the basis gives no vol. */
export interface ContractView {
  vol: number;
  theory: number;
  delta: number;
  gamma: number;
  theta: number;
  vega: number;
  rho: number;
  itm: number;
  /** N(±d₂) at this vol: what the odds would be without the slope of the curve. */
  flatItm: number;
  touch: number;
}

/**
 * One contract under one basis, by the same code as a whole slice.
 *
 * @param ownVol implied vol of the contract at the quote in use; NaN for none
 */
export function valueContract(
  strike: number,
  fit: ExpiryFit,
  spot: number,
  kind: MarketTerms['kind'],
  choice: BasisChoice,
  ownVol: number,
  sign: number,
): ContractView {
  const values = valueSlice(Float64Array.of(strike), fit, spot, kind, choice, Float64Array.of(ownVol), sign);
  const vol = values.vol[0]!;
  const k = Math.log(strike / fit.forward);
  const flatAbove = oddsAbove(k, vol, 0, fit.years);
  const start = kind === 'future' ? fit.forward : spot;
  return {
    vol,
    theory: values.theory[0]!,
    delta: values.delta[0]!,
    gamma: values.gamma[0]!,
    theta: values.theta[0]!,
    vega: values.vega[0]!,
    rho: values.rho[0]!,
    itm: values.itm[0]!,
    flatItm: sign > 0 ? flatAbove : 1 - flatAbove,
    touch: touchProbability(start, strike, fit.years, Math.log(fit.forward / start) / fit.years, vol),
  };
}
