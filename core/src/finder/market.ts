import type { ExpiryFit, SideVols } from '../chain';
import type { Sample } from '../odds';
import type { Fill, ListedSlice, MarketAround } from '../structures';
import type { FinderKind, LegLimits, Range } from './kinds';

export interface ExpiryVols {
  readonly call: SideVols;
  readonly put: SideVols;
}

/** An underlying at a moment, as it is looked through. */
export interface FinderMarket {
  readonly slices: readonly ListedSlice[];
  /** Implied vols of the quotes of an expiry with the reasons why some are not used. */
  readonly vols: (at: number) => ExpiryVols;
  readonly around: MarketAround;
  /** Announcements to come, in years. */
  readonly announced: readonly number[];
  /** Past moves to an expiry; null where too few are held. */
  readonly past: (fit: ExpiryFit) => Sample | null;
  /** The vol of one's own for an expiry, a decimal; NaN where there is none. */
  readonly ownVol: (fit: ExpiryFit) => number;
}

/** What is looked for. */
export interface FinderAsked {
  readonly kinds: readonly FinderKind[];
  /** Of each expiry, in days. */
  readonly days: Range;
  readonly legs: LegLimits;
  /** Days between the expiries of calendars and diagonals. */
  readonly gap: Range;
  readonly fill: Fill;
  /** Of a contract, for one unit of the underlying. */
  readonly fee: number;
  /** Whether quotes take part that are refused, set aside, or of one side. */
  readonly hasAll: boolean;
  /** Whether one's own vol is the same for all strikes; else it keeps the skew of the curve. */
  readonly isOwnFlat: boolean;
  /** Whether the stress is told of structures whose loss has an end. */
  readonly hasStress: boolean;
  /** Candidates of an underlying that are measured at most; what is over is counted. */
  readonly most: number;
}

/** Candidates of an underlying that are measured unless it is said otherwise. */
export const USUAL_MOST = 150_000;
