import { midsOf, straddleUsed, type StraddleChoice, type StraddleQuote, type StraddleUsed } from '@umwelt/core';
import type { FittedSlice } from '$lib/workers';

/** Quotes of the straddles of an expiry, strikes ascending. */
function straddleQuotes({ strike, call, put }: FittedSlice): StraddleQuote[] {
  const [calls, puts] = [midsOf(call), midsOf(put)];
  const isQuoted = (side: FittedSlice['call'], i: number) => side.bid[i]! > 0 && side.ask[i]! >= side.bid[i]!;
  return Array.from(strike, (level, i) => ({
    strike: level,
    callMid: isQuoted(call, i) ? calls[i]! : NaN,
    putMid: isQuoted(put, i) ? puts[i]! : NaN,
  }));
}

/** The straddles that the expected move of an expiry is made of; null where no strike has both sides quoted. */
export function straddleOf(slice: FittedSlice, choice: StraddleChoice): StraddleUsed | null {
  return straddleUsed(straddleQuotes(slice), slice.fit.forward, choice);
}
