import { straddleQuotes, straddleUsed, type StraddleChoice, type StraddleUsed } from '@umwelt/core';
import type { Valued } from '$lib/data/valued';
import type { FittedSlice } from '$lib/data';

/** The straddles that the expected move of an expiry is made of; null where no quote can be used. */
export function straddleOf(
  { snapshot, values }: Pick<Valued, 'snapshot' | 'values'>,
  slice: FittedSlice,
  choice: StraddleChoice,
): StraddleUsed | null {
  const own = values[snapshot.slices.indexOf(slice)];
  if (!own || !(slice.fit.years > 0)) return null;
  return straddleUsed(straddleQuotes(slice.strike, slice.fit, own.callVols, own.putVols), slice.fit, choice);
}
