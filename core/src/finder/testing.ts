import { emptySide, impliedColumns, type ExpiryFit } from '../chain';
import { drawPaths, makeRandom, type PastBars } from '../odds';
import { MovedExpiry, unmoved, type ListedSlice, type MarketAround } from '../structures';
import { curveVol, flatCurve, naturalCurve, type Curve } from '../surface';
import type { Exercise } from '../models';
import type { FinderKind } from './kinds';
import type { FinderAsked, FinderMarket } from './market';
import type { FinderMeasure } from './measures';
import { legsOf, type CandidateLeg } from './row';
import type { SolvedMarket } from './solved';
import { columnOf, kindAt, measuresAt, MOST_LEGS, type CandidateTable } from './table';

/** A market of some expiries for tests. */
export interface TestWorld {
  exercise?: Exercise;
  kind?: MarketAround['on']['kind'];
  /** Years to the expiries. */
  years?: readonly number[];
  strikes?: readonly number[];
  /** Of all curves; without it they lean. */
  flatVol?: number;
  ownVol?: number;
  halfSpread?: number;
  /** Added to each mid, by strike. */
  noise?: (strike: number, side: 'call' | 'put') => number;
  drift?: number;
  rate?: number;
}

export const SPOT = 100;
const DAY = '2031-0';

/** Bars of a random walk whose vol clusters; the same for all tests. */
export function pastBars(sessions = 320): PastBars {
  const random = makeRandom(11);
  const close = new Float64Array(sessions);
  let [price, vol] = [SPOT, 0.01];
  for (let i = 0; i < sessions; i++) {
    const normal = Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());
    price *= Math.exp(vol * normal);
    vol = 0.9 * vol + 0.001 + 0.0003 * Math.abs(normal);
    close[i] = price;
  }
  return { close, high: close.map((value) => value * 1.002), low: close.map((value) => value * 0.998) };
}

function sliceOf(world: TestWorld, years: number, at: number, around: MarketAround): ListedSlice {
  const { strikes = [80, 85, 90, 95, 100, 105, 110, 115, 120], drift = 0.02, rate = 0.03, flatVol } = world;
  const { halfSpread = 1e-4, noise = () => 0 } = world;
  const forward = around.on.kind === 'future' ? SPOT : SPOT * Math.exp(drift * years);
  const curve: Curve =
    flatVol === undefined
      ? naturalCurve({ theta: 0.04 * years, rho: -0.4, phi: 2 }, years, forward)
      : flatCurve(flatVol, years, forward);
  const expiry = `${DAY}${at + 4}-17`;
  const fit = {
    ...{ expiry, settlement: 'pm', years, days: 365 * years, sessions: Math.round(252 * years), forward, rate, curve },
    ...{ discount: Math.exp(-rate * years), atmVol: curveVol(curve, 0), atmVolUncertainty: 0.002, aside: [] },
    ...{ expiryAside: null, shape: 'own', quality: 90 - at },
  } as unknown as ExpiryFit;
  const moved = new MovedExpiry(fit, around, (k) => curveVol(curve, k));
  const sideOf = (side: 'call' | 'put') => {
    const mids = strikes.map(
      (strike) => moved.value(side === 'call' ? 1 : -1, strike, unmoved(SPOT)) + noise(strike, side),
    );
    return {
      ...emptySide(strikes.length),
      bid: Float64Array.from(mids, (mid) => mid - halfSpread),
      ask: Float64Array.from(mids, (mid) => mid + halfSpread),
      openInterest: Float64Array.from(strikes, (strike) => 1000 - Math.abs(strike - SPOT) * 10),
      volume: Float64Array.from(strikes, (strike) => 100 - Math.abs(strike - SPOT)),
    };
  };
  return {
    expiry,
    settlement: 'pm',
    strike: Float64Array.from(strikes),
    call: sideOf('call'),
    put: sideOf('put'),
    fit,
  };
}

/** An underlying for tests, quoted around its curves. */
export function testWorld(world: TestWorld = {}): FinderMarket {
  const { exercise = 'european', kind = 'equity', years = [0.1, 0.3], ownVol = 0.18 } = world;
  const on = { kind, exercise, spot: SPOT };
  const around: MarketAround = { on, spot: SPOT, dividends: [], events: [] };
  const slices = years.map((one, at) => sliceOf(world, one, at, around));
  const bars = pastBars();
  const vols = slices.map(({ strike, call, put, fit }) => ({
    call: impliedColumns(strike, call, fit, 1, on),
    put: impliedColumns(strike, put, fit, -1, on),
  }));
  return {
    ...{ slices, around, announced: [0.05, 0.2] },
    vols: (at) => vols[at]!,
    past: ({ sessions, forward }) =>
      drawPaths(bars, { sessions, start: Math.log(SPOT / forward), sampling: 'stretches', drift: 'forward' }),
    ownVol: () => ownVol,
  };
}

/** Everything of some kinds, without limits. */
export const askedOf = (kinds: FinderAsked['kinds'], more: Partial<FinderAsked> = {}): FinderAsked => ({
  ...{ kinds, days: [0, 1000], legs: {}, gap: [0, 1000], fill: 'mid', fee: 0, hasAll: false, isOwnFlat: false },
  ...{ hasStress: true, most: 1e6, ...more },
});

/** A candidate for tests, before it is ranked. */
export interface CandidateRow {
  readonly kind: FinderKind;
  readonly legs: readonly CandidateLeg[];
  readonly measures: Readonly<Record<FinderMeasure, number>>;
  /** Where its first expiry is among those of the market. */
  readonly slice: number;
}

export function candidateRow({ expiries, contracts }: SolvedMarket, table: CandidateTable, at: number): CandidateRow {
  return {
    kind: kindAt(table, at),
    legs: legsOf({ expiries: expiries.map(({ fit }) => fit), contracts }, table, at),
    measures: measuresAt(table, at),
    slice: expiries[table.expiry[at]!]!.at,
  };
}

/** What a candidate gains at its first expiry, by the price there; what expires later is revalued on its curve. */
export function profitOfCandidate(
  { expiries, contracts }: SolvedMarket,
  table: CandidateTable,
  at: number,
): (price: number) => number {
  const place = table.expiry[at]!;
  const elapsed = expiries[place]!.fit.years;
  const ids = Array.from(table.legs.subarray(MOST_LEGS * at, MOST_LEGS * (at + 1))).filter((id) => id >= 0);
  const cost = columnOf(table, 'cost')[at]!;
  return (price) =>
    ids.reduce(
      (sum, id, leg) => {
        const [sign, strike] = [contracts.sign[id]!, contracts.strike[id]!];
        const isOver = contracts.expiry[id] === place;
        const value = isOver
          ? Math.max(0, sign * (price - strike))
          : expiries[contracts.expiry[id]!]!.moved.value(sign, strike, { ...unmoved(price), elapsed });
        return sum + table.quantities[MOST_LEGS * at + leg]! * value;
      },
      table.held[at]! * price - cost,
    );
}
