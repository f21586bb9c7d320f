import type { WrittenOn } from '../chain';
import type { CashDividend } from '../models';

/** How a shift of vol is meant: the same for all expiries, by √(30/T), or as a share of each vol. */
export const VOL_SCALES = ['parallel', 'root', 'percent'] as const;
export type VolScale = (typeof VOL_SCALES)[number];

/** What keeps its vol while the price moves: a strike, a moneyness ln(K/F), or so many deviations ln(K/F)/(σ_ATM√τ). */
export const DYNAMICS = ['strike', 'moneyness', 'delta'] as const;
export type Dynamics = (typeof DYNAMICS)[number];

/** What is thought to happen. */
export interface Scenario {
  /** Of the underlying. */
  readonly price: number;
  /** Years from the as-of. */
  readonly elapsed: number;
  /** Vols and rates are decimals. */
  readonly volShift: number;
  readonly volScale: VolScale;
  /** Added for single expiries, by their years. */
  readonly volShifts: ReadonlyMap<number, number>;
  /** Times what vols are after all shifts. */
  readonly volFactor: number;
  /** Of the 25-delta risk reversal. */
  readonly skewShift: number;
  readonly rateShift: number;
  readonly dynamics: Dynamics;
  /** Whether announcements take their variance with them. */
  readonly hasEvents: boolean;
}

const NO_SHIFTS: Scenario['volShifts'] = new Map();

/** A scenario in which nothing happens. */
export function unmoved(price: number): Scenario {
  return {
    price,
    elapsed: 0,
    volShift: 0,
    volScale: 'parallel',
    volShifts: NO_SHIFTS,
    volFactor: 1,
    skewShift: 0,
    rateShift: 0,
    dynamics: 'strike',
    hasEvents: true,
  };
}

/** An announcement to come, and the total variance that it carries. */
export interface EventVariance {
  readonly years: number;
  readonly variance: number;
}

/** What is known around an underlying, beside its expiries. */
export interface MarketAround {
  readonly on: WrittenOn;
  /** Price that the forwards are led to from. */
  readonly spot: number;
  /** Known cash dividends, by years from the as-of. */
  readonly dividends: readonly CashDividend[];
  readonly events: readonly EventVariance[];
}

/** Less time than a thousandth of a second is the expiry itself. */
export const LEAST_YEARS = 1e-11;
