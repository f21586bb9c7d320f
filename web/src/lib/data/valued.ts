import type { Basis } from '@umwelt/core';
import type { PricingTerms } from './pricing';
import type { LoadedSnapshot, ValuedSlice } from './snapshot';
import type { QuoteSide } from '$lib/address';

/** A snapshot with its values under a basis: they change together, so that no two numbers disagree. */
export interface Valued {
  snapshot: LoadedSnapshot;
  values: ValuedSlice[];
  basis: Basis;
  quotes: QuoteSide;
  terms: PricingTerms;
}
