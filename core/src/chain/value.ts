import {
  DAYS_PER_YEAR,
  makeFirstOrder,
  priceEuropean,
  sheetTheta,
  touchProbability,
  type AmericanExpiry,
  type FirstOrderColumns,
} from '../models';
import { curveLaw, lognormalLaw, oddsAbove, sampleLaw, sampleTouch, shareUnder, type Law, type Sample } from '../odds';
import { curveSlope, curveVol } from '../surface';
import { americanAt, americanOn, expiryTerms, isEarly } from './american';
import type { ExpiryFit, WrittenOn } from './types';

/** The vol bases, in the order in which the screen steps through them. */
export const BASES = ['curve', 'own', 'level', 'index', 'realized', 'manual'] as const;
export type Basis = (typeof BASES)[number];

/** What somebody types as a vol: one for all strikes, or a shift of every curve. Decimals. */
export interface ManualVol {
  readonly kind: 'vol' | 'shift';
  readonly value: number;
}

/** A basis, with what some of them bring along. */
export interface BasisChoice {
  readonly basis: Basis;
  /** Historical vol for `realized`; NaN when too few bars are held. */
  readonly realizedVol: number;
  /** The variance index as a decimal, for `index`; NaN where there is none. */
  readonly indexVol: number;
  /** For `manual`; without it there is no vol. */
  readonly manual?: ManualVol | undefined;
  /** Paths of the past whose odds stand in place of the lognormal ones of `realized`; null where none can be drawn. */
  readonly sample?: Sample | null | undefined;
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
  readonly touch: Float64Array;
  /** Odds to end beyond the break-even price, strike ± mid. */
  readonly breakEven: Float64Array;
}

/** Names of them all. */
export const SIDE_VALUES = [
  ...(['vol', 'theory', 'delta', 'gamma', 'theta', 'vega', 'rho'] as const),
  ...(['itm', 'touch', 'breakEven'] as const),
] as const satisfies readonly (keyof SideValues)[];

/** What is known of a side, aligned with the strikes. */
export interface SideKnown {
  /** Implied vols at the quote in use, for `own`. */
  readonly own: Float64Array;
  /** Mids, for break-evens. */
  readonly mid: Float64Array;
}

/** Mids of a side: the mean of bid and ask. */
export function midsOf({ bid, ask }: { bid: Float64Array; ask: Float64Array }): Float64Array {
  return bid.map((value, i) => 0.5 * (value + ask[i]!));
}

function basisVols(strike: Float64Array, fit: ExpiryFit, choice: BasisChoice, own: Float64Array): Float64Array {
  const { basis, manual } = choice;
  const shift = basis === 'manual' && manual?.kind === 'shift' ? manual.value : 0;
  return strike.map((level, i) => {
    if (basis === 'own') return own[i]!;
    if (basis === 'realized') return choice.realizedVol;
    if (basis === 'index') return choice.indexVol;
    if (basis === 'manual' && manual?.kind !== 'shift') return manual?.value ?? NaN;
    if (!fit.curve) return NaN;
    const vol = curveVol(fit.curve, basis === 'level' ? 0 : Math.log(level / fit.forward)) + shift;
    return vol > 0 ? vol : NaN;
  });
}

/**
 * The law of the price at expiry that a basis stands for: the density of the curve, the sample of the past where there is
 * one, or the lognormal law of the one vol.
 *
 * @param vol for `own`, which has one for each contract
 * @returns null where the basis has no vol; a shifted curve has none as a whole, its slope is counted by contract
 */
export function basisLaw(fit: ExpiryFit, choice: BasisChoice, vol: number): Law | null {
  if (!(fit.forward > 0) || !(fit.years > 0)) return null;
  if (choice.basis === 'curve') return fit.curve && curveLaw(fit.curve);
  if (choice.basis === 'realized' && choice.sample !== undefined) {
    return choice.sample && sampleLaw(choice.sample.ends, choice.sample.independent);
  }
  return vol > 0 ? lognormalLaw(vol * Math.sqrt(fit.years)) : null;
}

/**
 * Values one side of an expiry under a vol basis, on the price and the yield that leads from it to the forward of the
 * expiry; for futures on the forward itself. American contracts with their early exercise.
 * The odds on the `curve` basis and on a shifted curve count the slope of the curve, those of a sample its shares, on the
 * others they are N(±d₂); to touch a strike they take one vol, that of the strike.
 *
 * @param sign +1 calls, −1 puts
 */
export function valueSlice(
  strike: Float64Array,
  fit: ExpiryFit,
  on: WrittenOn,
  choice: BasisChoice,
  { own, mid }: SideKnown,
  sign: number,
): SideValues {
  const vol = basisVols(strike, fit, choice, own);
  return valueAt(strike, vol, fit, on, choice, { sign, mid, around: vol });
}

interface SideTerms {
  sign: number;
  mid: Float64Array;
  /** Vols of the whole side, between which early exercise is interpolated: a contract priced alone gets the numbers of its chain. */
  around: Float64Array;
}

/** Values strikes at vols. */
function valueAt(
  strike: Float64Array,
  vol: Float64Array,
  fit: ExpiryFit,
  on: WrittenOn,
  choice: BasisChoice,
  { sign, mid, around }: SideTerms,
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
  const odds = sideOdds(strike, vol, fit, choice, terms.spot, { sign, mid });
  if (isEarly(on, fit, sign)) addEarlyExercise(americanOn(on, fit, around), isFuture, strike, vol, sign, out);
  const { price: theory, delta, gamma, theta, vega, rho } = out;
  return { vol, theory, delta, gamma, theta, vega, rho, ...odds };
}

/** Odds of a side: to end in the money, to touch the strike, to end beyond the break-even. */
function sideOdds(
  strike: Float64Array,
  vol: Float64Array,
  fit: ExpiryFit,
  choice: BasisChoice,
  spot: number,
  { sign, mid }: Pick<SideTerms, 'sign' | 'mid'>,
): Pick<SideValues, 'itm' | 'touch' | 'breakEven'> {
  const { forward, years, curve } = fit;
  const count = strike.length;
  const [itm, touch, breakEven] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  const isCurve =
    curve !== null && (choice.basis === 'curve' || (choice.basis === 'manual' && choice.manual?.kind === 'shift'));
  const sample = choice.basis === 'realized' ? choice.sample : undefined;
  if (sample === null) return { itm: itm.fill(NaN), touch: touch.fill(NaN), breakEven: breakEven.fill(NaN) };
  const start = Math.log(spot / forward);
  const drift = -start / years;
  const ofCurve = choice.basis === 'curve' && curve ? curveLaw(curve) : null;
  const under = sample ? (k: number) => shareUnder(sample.ends, k) : ofCurve?.under;
  for (let i = 0; i < count; i++) {
    const k = Math.log(strike[i]! / forward);
    const above = sample ? 1 - under!(k) : oddsAbove(k, vol[i]!, isCurve ? curveSlope(curve, k) : 0, years);
    itm[i] = sign > 0 ? above : 1 - above;
    touch[i] = sample ? sampleTouch(sample, k, start) : touchProbability(spot, strike[i]!, years, drift, vol[i]!);
    const at = Math.log((strike[i]! + sign * mid[i]!) / forward);
    // A shifted curve keeps the vol and the slope of the strike.
    const over = under ? 1 - under(at) : oddsAbove(at, vol[i]!, isCurve ? curveSlope(curve, k) : 0, years);
    breakEven[i] = sign > 0 ? over : 1 - over;
  }
  return { itm, touch, breakEven };
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
export type ContractView = Record<keyof SideValues, number> & {
  /** N(±d₂) at this vol: what the odds would be without the slope of the curve. */
  flatItm: number;
};

/**
 * One contract under one basis, with the numbers of {@link valueSlice}.
 *
 * @param index of its strike
 */
export function valueContract(
  index: number,
  strikes: Float64Array,
  fit: ExpiryFit,
  on: WrittenOn,
  choice: BasisChoice,
  { own, mid }: SideKnown,
  sign: number,
): ContractView {
  const around = basisVols(strikes, fit, choice, own);
  const strike = strikes[index]!;
  const vol = around[index]!;
  const known = { sign, mid: Float64Array.of(mid[index]!), around };
  const values = valueAt(Float64Array.of(strike), Float64Array.of(vol), fit, on, choice, known);
  const flatAbove = oddsAbove(Math.log(strike / fit.forward), vol, 0, fit.years);
  const one = Object.fromEntries(Object.entries(values).map(([name, column]) => [name, column[0]!]));
  return { ...(one as Record<keyof SideValues, number>), flatItm: sign > 0 ? flatAbove : 1 - flatAbove };
}
