import {
  BASES,
  contractPrice,
  countedLaw,
  curveLaw,
  expiryTerms,
  fastestHedge,
  futureOdds,
  lognormalLaw,
  logCumulative,
  logDensity,
  midsOf,
  moveToKeep,
  oddsWorth,
  straddleHedge,
  surfaceAt,
  surfaceOf,
  valueSlice,
  walkPaths,
  writtenOn,
  type Basis,
  type BasisChoice,
  type Contract,
  type FutureOdds,
  type HedgePoint,
  type Law,
  type SideValues,
  type SideVols,
  type VarianceAt,
  type Side,
} from '@umwelt/core';
import type { QuoteSide } from '$lib/address';
import { choiceOf, sampleTo, type PricingTerms } from './pricing';
import type { LoadedSnapshot } from './snapshot';

/** A side of an expiry under every basis: what a table of odds shows of it. */
export type ComparedSide = Record<
  Basis,
  Pick<SideValues, 'vol' | 'theory' | 'delta' | 'gamma' | 'theta' | 'vega' | 'itm' | 'touch' | 'breakEven'>
>;

/** What a contract may be worth on its way. */
export interface ContractFuture {
  /** Odds by moment and share: of a gain where it is positive, of a loss where it is negative. */
  rows: FutureOdds[][];
  /** Value on the basis now and at the close of tomorrow with the price where it is. */
  now: number;
  tomorrow: number;
  /** Odds to be worth at least the mid at the close of tomorrow. */
  recovery: number;
  /** What the underlying has to move by tomorrow's close for the contract to keep its value; NaN where nothing does. */
  move: number;
}

/** The hedge of a sold straddle by price. */
export interface StraddleHedge {
  points: HedgePoint[];
  fastest: { price: number; from: number; to: number } | null;
}

const signOf = (side: Side) => (side === 'call' ? 1 : -1);

/** One side of an expiry under every basis. */
export function compareSide(
  snapshot: LoadedSnapshot,
  vols: SideVols,
  at: number,
  side: Side,
  terms: PricingTerms,
  quotes: QuoteSide,
): ComparedSide {
  const slice = snapshot.slices[at]!;
  const on = writtenOn(snapshot, snapshot);
  const known = { own: vols[quotes], mid: midsOf(slice[side]) };
  return Object.fromEntries(
    BASES.map((basis) => {
      const sample = terms.past && basis === 'realized' ? sampleTo(snapshot, slice.fit, terms.past) : undefined;
      const values = valueSlice(slice.strike, slice.fit, on, choiceOf(basis, terms, at, sample), known, signOf(side));
      const { rho: _rho, ...rest } = values;
      return [basis, rest];
    }),
  ) as ComparedSide;
}

/** A contract as the models take it, on the basis of its vol. */
function contractAt(snapshot: LoadedSnapshot, at: number, index: number, side: Side, vol: number): Contract {
  const { fit, strike } = snapshot.slices[at]!;
  const on = writtenOn(snapshot, snapshot);
  const { spot, years, rate, yield: carryYield } = expiryTerms(on, fit);
  const base = { side, strike: strike[index]!, years, rate, vol };
  // A future is its own forward, at the rate as its yield.
  if (on.exercise === 'american') return { ...base, model: 'american', spot, yield: carryYield };
  return { ...base, model: 'black-scholes-merton', spot, yield: carryYield };
}

/** Where the underlying may be at moments before an expiry, under a basis. */
function lawsOnTheWay(
  snapshot: LoadedSnapshot,
  at: number,
  choice: BasisChoice,
  terms: PricingTerms,
  vol: number,
  sessionsBy: (elapsed: number) => number,
): (elapsed: number) => { law: Law; forward: number } {
  const { fit } = snapshot.slices[at]!;
  const { spot } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  const drift = Math.log(fit.forward / spot) / fit.years;
  const forwardAt = (elapsed: number) => spot * Math.exp(drift * elapsed);
  const used = snapshot.slices.flatMap((slice) =>
    slice.fit.curve && !slice.fit.expiryAside && slice.fit.years > 0 ? [slice.fit.curve] : [],
  );
  const surface = choice.basis === 'curve' && fit.curve ? surfaceOf(used) : null;
  const past = choice.basis === 'realized' ? terms.past : null;
  const walk = past && walkPaths(past.bars, past);
  let latest: { sessions: number; law: Law } | null = null;
  return (elapsed) => {
    const forward = forwardAt(elapsed);
    if (surface && fit.curve) {
      if (elapsed >= fit.years) return { law: curveLaw(fit.curve), forward: fit.forward };
      const point: VarianceAt = { w: 0, slope: 0, curvature: 0 };
      const law: Law = {
        under: (k) => (Number.isFinite(k) ? logCumulative(surfaceAt(surface, k, elapsed, point), k) : Number(k > 0)),
        density: (k) => logDensity(surfaceAt(surface, k, elapsed, point), k),
      };
      return { law, forward };
    }
    if (walk) {
      // What is known of the expiry by sorted paths stays what it says there.
      if (elapsed >= fit.years && choice.sample) return { law: countedLaw(choice.sample.ends), forward: fit.forward };
      const sessions = sessionsBy(elapsed);
      if (latest?.sessions !== sessions) {
        const ends = walk(sessions, Math.log(spot / forward));
        latest = { sessions, law: ends ? countedLaw(ends) : lognormalLaw(NaN) };
      }
      return { law: latest.law, forward };
    }
    return { law: lognormalLaw(vol * Math.sqrt(elapsed)), forward };
  };
}

/** A coming close. */
export interface CloseAhead {
  /** From now; that of the expiry is its time. */
  years: number;
  sessions: number;
}

/** A contract that is followed to its expiry. */
export interface FutureRequest {
  slice: number;
  index: number;
  side: Side;
  basis: Basis;
  /** Coming closes, the last the expiry. */
  closes: readonly CloseAhead[];
  /** Gains and losses of its mid, as shares. */
  shares: readonly number[];
}

/** Odds that a contract gains or loses by coming closes; null where the basis has no vol for it. */
export function futureOf(
  snapshot: LoadedSnapshot,
  vols: SideVols,
  { slice: at, index, side, basis, closes, shares }: FutureRequest,
  terms: PricingTerms,
  quotes: QuoteSide,
): ContractFuture | null {
  const slice = snapshot.slices[at]!;
  const { fit } = slice;
  const sample = terms.past && basis === 'realized' ? sampleTo(snapshot, fit, terms.past) : undefined;
  const choice = choiceOf(basis, terms, at, sample);
  const mids = midsOf(slice[side]);
  const known = { own: vols[quotes], mid: mids };
  const on = writtenOn(snapshot, snapshot);
  const vol = valueSlice(slice.strike, fit, on, choice, known, signOf(side)).vol[index]!;
  const mid = mids[index]!;
  const moments = closes.map(({ years }) => years);
  const [tomorrow] = moments;
  if (!(vol > 0) || !(mid > 0) || tomorrow === undefined || !(fit.years > 0)) return null;
  const contract = contractAt(snapshot, at, index, side, vol);
  const future = {
    ...{ sign: signOf(side), strike: contract.strike, years: fit.years },
    value: (price: number, elapsed: number) => {
      const years = Math.max(0, fit.years - elapsed);
      return contractPrice({ ...contract, spot: price, years }, 'fast');
    },
    law: lawsOnTheWay(
      snapshot,
      at,
      choice,
      terms,
      vol,
      (elapsed) => closes.find(({ years }) => years >= elapsed)?.sessions ?? fit.sessions,
    ),
  };
  const spot = contract.spot!;
  return {
    rows: futureOdds(future, mid, moments, shares),
    now: future.value(spot, 0),
    tomorrow: future.value(spot, tomorrow),
    recovery: oddsWorth(future, tomorrow, mid),
    move: moveToKeep(future, spot, tomorrow),
  };
}

/** Call and put of a strike sold, by prices of the underlying; null where a vol is missing. */
export function hedgeOf(
  snapshot: LoadedSnapshot,
  sides: { call: SideVols; put: SideVols },
  at: number,
  index: number,
  basis: Basis,
  terms: PricingTerms,
  quotes: QuoteSide,
  prices: readonly number[],
): StraddleHedge | null {
  const slice = snapshot.slices[at]!;
  const on = writtenOn(snapshot, snapshot);
  const choice = choiceOf(basis, terms, at, undefined);
  const contractOf = (side: Side) => {
    const known = { own: sides[side][quotes], mid: midsOf(slice[side]) };
    const { vol } = valueSlice(slice.strike, slice.fit, on, choice, known, signOf(side));
    return contractAt(snapshot, at, index, side, vol[index]!);
  };
  const [call, put] = [contractOf('call'), contractOf('put')];
  if (!(call.vol > 0 && put.vol > 0) || !(slice.fit.years > 0)) return null;
  const points = straddleHedge({ call, put }, prices);
  return { points, fastest: fastestHedge(points) };
}
