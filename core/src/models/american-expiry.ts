import { exp, log } from '../distributions';
import { earlyExercise, sheetOfPut, valuePut, type Sheet } from './american';
import { binomialNodes } from './binomial';
import { logLimit, solveBoundary } from './boundary';
import { makeCollocation, type Collocation } from './collocation';
import type { Side } from '../contracts';
import type { SpotTerms } from './model';
import { boundedPut, europeanPut, type Put } from './premium';

/** What all contracts of an expiry have in common. */
export type ExpiryTerms = Omit<SpotTerms, 'sign' | 'strike'>;

/**
 * Two fixed-point steps on six nodes: as exact as the interpolation between vols, which needs five. Delta and gamma look at
 * more abscissae than prices do: their integrands stand up next to the boundary.
 */
const SIZE = { abscissae: 10, steps: 2, newton: 0, nodes: 6, premium: 12, start: 3, crowding: 2 } as const;
const FINER = { ...SIZE, premium: 40 };
const VOLS = 5;
const MOST_VOLS = 8;
/** Of the tree where there are two boundaries. */
const TREE_STEPS = 201;

type Rates = Omit<ExpiryTerms, 'spot'>;

/** ln(−ln(B/X)) at the nodes of the collocation, by vols: nearly linear in ln σ. */
interface Boundaries {
  /** ln X. */
  readonly limit: number;
  readonly logVol: Float64Array;
  readonly weight: Float64Array;
  readonly depth: Float64Array;
}

/** Depth under the limit that no number is under. */
const LEAST_DEPTH = 1e-12;

/** Room to work in. */
let room: { plain: Collocation; finer: Collocation } | undefined;

function roomOf() {
  return (room ??= { plain: makeCollocation(SIZE), finer: makeCollocation(FINER) });
}

function makeBoundaries(
  { rate, yield: carryYield, years }: Rates,
  [low, high]: readonly [number, number],
  vols: number,
): Boundaries {
  const tables = roomOf().plain;
  const { nodes, logBoundary } = tables;
  const limit = logLimit(rate, carryYield);
  const [middle, half] = [0.5 * Math.log(low * high), 0.5 * Math.log(high / low)];
  const logVol = new Float64Array(vols);
  const weight = new Float64Array(vols);
  const depth = new Float64Array(vols * nodes);
  for (let v = 0; v < vols; v++) {
    // Chebyshev points of the first kind, and their barycentric weights.
    const angle = (Math.PI * (v + 0.5)) / vols;
    logVol[v] = middle - half * Math.cos(angle);
    weight[v] = (v % 2 === 0 ? 1 : -1) * Math.sin(angle);
    solveBoundary(tables, rate, carryYield, Math.exp(logVol[v]!), years);
    for (let i = 0; i < nodes; i++) depth[v * nodes + i] = Math.log(Math.max(limit - logBoundary[i]!, LEAST_DEPTH));
  }
  return { limit, logVol, weight, depth };
}

const SHARE = new Float64Array(MOST_VOLS);

/** Interpolates into the tables. */
function loadBoundary({ limit, logVol, weight, depth }: Boundaries, vol: number, isFiner: boolean): Collocation {
  const tables = isFiner ? roomOf().finer : roomOf().plain;
  const { nodes, logBoundary, square, solved } = tables;
  const vols = logVol.length;
  const at = log(vol);
  let sum = 0;
  for (let v = 0; v < vols; v++) {
    const away = at - logVol[v]!;
    const share = weight[v]! / (away === 0 ? 1e-300 : away);
    SHARE[v] = share;
    sum += share;
  }
  for (let i = 0; i < nodes; i++) {
    let depthAt = 0;
    for (let v = 0; v < vols; v++) depthAt += SHARE[v]! * depth[v * nodes + i]!;
    const y = exp(depthAt / sum);
    logBoundary[i] = limit - y;
    square[i] = y * y;
  }
  solved[0] = NaN;
  return tables;
}

/** Prices American contracts of one expiry. */
export interface AmericanExpiry {
  readonly terms: ExpiryTerms;
  /** Vols between which the boundaries are interpolated. */
  readonly range: readonly [low: number, high: number];
  /** @param sign +1 call, −1 put */
  price(sign: number, strike: number, vol: number): number;
  /** With the price of {@link price}. */
  sheet(sign: number, strike: number, vol: number): Sheet;
}

/**
 * American contracts of one expiry: the exercise boundary does not depend on the strike, and between vols it is smooth, so it
 * is solved at five of them and interpolated. Within 1e-5 of spot of the precise setting (5e-7 in the mean square), at a small part of its work for a
 * whole chain.
 *
 * @param low and `high`: vols between which the boundaries are interpolated; outside, and where there are two boundaries,
 *   each contract is priced separately
 * @param vols how many the boundaries are solved at, up to eight
 */
export function americanExpiry(terms: ExpiryTerms, low: number, high: number, vols = VOLS): AmericanExpiry {
  const { spot, years, rate } = terms;
  const carryYield = terms.yield;
  const regime = { put: earlyExercise(-1, rate, carryYield, years), call: earlyExercise(1, rate, carryYield, years) };
  const made: { put?: Boundaries; call?: Boundaries } = {};
  const putOf = (
    side: Side,
    price: number,
    strike: number,
    r: number,
    q: number,
    vol: number,
    hasGreeks: boolean,
  ): Put => {
    if (regime[side] === 'never') return europeanPut(price, strike, r, q, vol, years);
    if (!(vol >= low && vol <= high)) return valuePut(roomOf().plain, price, strike, r, q, vol, years, hasGreeks);
    const boundaries = (made[side] ??= makeBoundaries({ rate: r, yield: q, years }, [low, high], vols));
    return boundedPut(loadBoundary(boundaries, vol, hasGreeks), price, strike, r, q, vol, years, hasGreeks);
  };
  const put = (sign: number, strike: number, vol: number, hasGreeks: boolean): Put =>
    sign > 0
      ? putOf('call', strike, spot, carryYield, rate, vol, hasGreeks)
      : putOf('put', spot, strike, rate, carryYield, vol, hasGreeks);
  const isSolvable = (sign: number, vol: number) =>
    regime[sign > 0 ? 'call' : 'put'] !== 'between' && vol * Math.sqrt(years) > 0;
  const alone = (sign: number, strike: number, vol: number) => {
    const { price, delta, gamma } = binomialNodes(
      { sign, spot, strike, years, rate, yield: carryYield, vol, isAmerican: true },
      TREE_STEPS,
    );
    return [price, delta, gamma] as const;
  };
  return {
    terms,
    range: [low, high],
    price: (sign, strike, vol) =>
      isSolvable(sign, vol) ? put(sign, strike, vol, false).price : alone(sign, strike, vol)[0],
    sheet: (sign, strike, vol) => {
      if (!isSolvable(sign, vol)) return alone(sign, strike, vol);
      const [, delta, gamma] = sheetOfPut(put(sign, strike, vol, true), sign, spot, strike);
      return [put(sign, strike, vol, false).price, delta, gamma];
    },
  };
}
