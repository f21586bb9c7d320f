import type { Basis } from '@umwelt/core';
import type { PricingTerms } from '$lib/workers/pricing';
import type { LoadedSnapshot, ValuedSlice } from '$lib/workers/snapshot';
import type { QuoteSide } from './context';

/** A snapshot with its values under a basis: they change together, so that no two numbers disagree. */
export interface Valued {
  snapshot: LoadedSnapshot;
  values: ValuedSlice[];
  basis: Basis;
  quotes: QuoteSide;
  terms: PricingTerms;
}
