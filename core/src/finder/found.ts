import type { ExpiryId } from '../contracts';
import { quantileOf } from '../distributions';
import type { Candidates } from './candidates';
import type { SolvedContracts } from './solved';
import type { CandidateTable } from './table';

/** Past moves that a structure is drawn over: one in twenty each. */
const DOTS = 20;

/** An expiry as far as rows tell of it. */
export interface FoundExpiry extends ExpiryId {
  readonly days: number;
  readonly years: number;
  readonly forward: number;
  readonly discount: number;
  readonly deviation: number;
  /** Prices at the ends of past moves, one in twenty each; none where too few are held. */
  readonly dots: readonly number[];
  /** Past moves of that length that do not overlap. */
  readonly independent: number;
  /** The vol of one's own; NaN without. */
  readonly ownVol: number;
  /** What it settled at since; NaN where that is not known. */
  readonly settled: number;
}

/** What was found on an underlying, as it goes from thread to thread. */
export interface Found {
  readonly symbol: string;
  readonly family: string | null;
  /** Epoch milliseconds. */
  readonly asof: number;
  readonly price: number;
  readonly multiplier: number;
  readonly table: CandidateTable;
  readonly contracts: Pick<SolvedContracts, 'expiry' | 'sign' | 'strike' | 'mid' | 'vol' | 'openInterest' | 'volume'>;
  readonly expiries: readonly FoundExpiry[];
  readonly over: number;
  readonly expiriesOut: number;
  readonly quotesOut: number;
}

/** What is said of an underlying beside its candidates. */
export type FoundOn = Pick<Found, 'symbol' | 'family' | 'asof' | 'price' | 'multiplier'>;

/**
 * What was found, without what it was solved with.
 *
 * @param settledAt what an expiry settled at; NaN where that is not known
 */
export function foundOf(
  { solved, table, over, expiriesOut, quotesOut }: Candidates,
  on: FoundOn,
  settledAt: (expiry: ExpiryId) => number = () => NaN,
): Found {
  const { expiry, sign, strike, mid, vol, openInterest, volume } = solved.contracts;
  return {
    ...{ ...on, table, over, expiriesOut, quotesOut },
    contracts: { expiry, sign, strike, mid, vol, openInterest, volume },
    expiries: solved.expiries.map(({ fit, deviation, past, ownVol }) => ({
      ...{ expiry: fit.expiry, settlement: fit.settlement, days: fit.days, years: fit.years, forward: fit.forward },
      ...{ discount: fit.discount, deviation, ownVol, settled: settledAt(fit), independent: past?.independent ?? 0 },
      dots: past ? Array.from({ length: DOTS }, (_, i) => quantileOf(past.prices, (i + 0.5) / DOTS)) : [],
    })),
  };
}
