import {
  DAYS_PER_YEAR,
  makeFirstOrder,
  priceEuropean,
  sheetTheta,
  touchProbability,
  type AmericanExpiry,
  type FirstOrderColumns,
} from '../models';
import { oddsAbove } from '../odds';
import { curveSlope, curveVol } from '../surface';
import { americanAt, americanOn, expiryTerms, isEarly } from './american';
import type { ExpiryFit } from './derive';
import type { WrittenOn } from './snapshot';

/** The vol bases that exist so far, in the order in which the screen steps through them. */
export const BASES = ['curve', 'own', 'level', 'index', 'realized'] as const;
export type Basis = (typeof BASES)[number];

/** A basis, with the numbers that `realized` and `index` bring along. */
export interface BasisChoice {
  readonly basis: Basis;
  /** Historical vol for `realized`; NaN when too few bars are held. */
  readonly realizedVol: number;
  /** The variance index as a decimal, for `index`; NaN where there is none. */
  readonly indexVol: number;
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

function basisVols(strike: Float64Array, fit: ExpiryFit, choice: BasisChoice, own: Float64Array): Float64Array {
  return strike.map((level, i) => {
    if (choice.basis === 'own') return own[i]!;
    if (choice.basis === 'realized') return choice.realizedVol;
    if (choice.basis === 'index') return choice.indexVol;
    if (!fit.curve) return NaN;
    return curveVol(fit.curve, choice.basis === 'level' ? 0 : Math.log(level / fit.forward));
  });
}

/**
 * Values one side of an expiry under a vol basis, on the price and the yield that leads from it to the forward of the
 * expiry; for futures on the forward itself. American contracts with their early exercise.
 * The odds on the `curve` basis count the slope of the curve, on the others they are N(±d₂).
 *
 * @param own implied vols of the side at the quote in use, for `own`
 * @param sign +1 calls, −1 puts
 */
export function valueSlice(
  strike: Float64Array,
  fit: ExpiryFit,
  on: WrittenOn,
  choice: BasisChoice,
  own: Float64Array,
  sign: number,
): SideValues {
  const vol = basisVols(strike, fit, choice, own);
  return valueAt(strike, vol, fit, on, choice, sign, vol);
}

/**
 * Values strikes at vols.
 *
 * @param around vols of the whole side, between which early exercise is interpolated: one contract by itself gets the
 *   numbers that it has in its chain
 */
function valueAt(
  strike: Float64Array,
  vol: Float64Array,
  fit: ExpiryFit,
  on: WrittenOn,
  choice: BasisChoice,
  sign: number,
  around: Float64Array,
): SideValues {
  const count = strike.length;
  const terms = expiryTerms(on, fit);
  const fill = (value: number) => new Float64Array(count).fill(value);
  const out = makeFirstOrder(count);
  const columns = {
    spot: fill(terms.spot),
    strike,
    years: fill(terms.years),
    rate: fill(terms.rate),
    yield: fill(terms.yield),
    vol,
    sign: fill(sign),
  };
  priceEuropean(columns, out, count);
  const isFuture = on.kind === 'future';
  if (isFuture) for (let i = 0; i < count; i++) out.rho[i] = -fit.years * out.price[i]! * 0.01;
  if (choice.basis === 'curve' && fit.curve) {
    for (let i = 0; i < count; i++) {
      const k = Math.log(strike[i]! / fit.forward);
      const above = oddsAbove(k, vol[i]!, curveSlope(fit.curve, k), fit.years);
      out.itm[i] = sign > 0 ? above : 1 - above;
    }
  }
  if (isEarly(on, fit, sign)) addEarlyExercise(americanOn(on, fit, around), isFuture, strike, vol, sign, out);
  const { price: theory, delta, gamma, theta, vega, rho, itm } = out;
  return { vol, theory, delta, gamma, theta, vega, rho, itm };
}

/** Share of the vol, and a rate, by which they are moved for vega and rho. */
const VOL_STEP = 0.005;
const RATE_STEP = 5e-4;

/** Puts the American price and Greeks in the place of the European. */
function addEarlyExercise(
  expiry: AmericanExpiry,
  isFuture: boolean,
  strike: Float64Array,
  vol: Float64Array,
  sign: number,
  out: FirstOrderColumns,
): void {
  const { terms } = expiry;
  const { rate, yield: carryYield } = terms;
  // A future holds its forward, so its yield moves with the rate.
  const [lower, higher] = [-RATE_STEP, RATE_STEP].map((step) =>
    americanAt({ ...terms, rate: rate + step, yield: carryYield + (isFuture ? step : 0) }, ...expiry.range),
  ) as [AmericanExpiry, AmericanExpiry];
  for (let i = 0; i < strike.length; i++) {
    const [k, v] = [strike[i]!, vol[i]!];
    if (!(v > 0)) continue;
    const sheet = expiry.sheet(sign, k, v);
    [out.price[i], out.delta[i], out.gamma[i]] = sheet;
    out.theta[i] = sheetTheta(sheet, { ...terms, sign, strike: k, vol: v }) / DAYS_PER_YEAR;
    const step = VOL_STEP * v;
    out.vega[i] = ((expiry.price(sign, k, v + step) - expiry.price(sign, k, v - step)) / (2 * step)) * 0.01;
    out.rho[i] = ((higher.price(sign, k, v) - lower.price(sign, k, v)) / (2 * RATE_STEP)) * 0.01;
  }
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
 * One contract under one basis, with the numbers of {@link valueSlice}.
 *
 * @param index of its strike
 * @param own implied vols of the side at the quote in use
 */
export function valueContract(
  index: number,
  strikes: Float64Array,
  fit: ExpiryFit,
  on: WrittenOn,
  choice: BasisChoice,
  own: Float64Array,
  sign: number,
): ContractView {
  const around = basisVols(strikes, fit, choice, own);
  const strike = strikes[index]!;
  const vol = around[index]!;
  const values = valueAt(Float64Array.of(strike), Float64Array.of(vol), fit, on, choice, sign, around);
  const k = Math.log(strike / fit.forward);
  const flatAbove = oddsAbove(k, vol, 0, fit.years);
  const { spot: start } = expiryTerms(on, fit);
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
