import type { Side } from '../contracts/contract';
import type { ExpiryId } from '../contracts';
import type { ReasonCode } from '../implied';

/** A contract that has a vol and is not used all the same. */
export interface Aside {
  side: Side;
  strike: number;
  /** Code of REASONS: `off-curve`, `off-parity`, `stale` or `by-hand`. */
  reason: ReasonCode;
}

/** What somebody has decided about a contract or, with strike and side null, about a whole expiry. */
export interface Exclusion extends ExpiryId {
  strike: number | null;
  side: Side | null;
  decision: 'use' | 'aside';
}
