import {
  creditSpread,
  targetStrike,
  type CreditSpread,
  type OddsKind,
  type TargetStrike,
  type Side,
} from '@umwelt/core';
import type { FittedSlice, ValuedSlice } from '$lib/data';

/** What meets the odds that are asked for, on one side of an expiry. */
export interface Met extends TargetStrike {
  side: Side;
  delta: number;
  itm: number;
  touch: number;
  spread: CreditSpread | null;
}

/** The strike that meets the odds on a side; null where none does. */
export function metOn(
  slice: FittedSlice,
  values: ValuedSlice,
  side: Side,
  kind: OddsKind,
  target: number,
  width: number,
): Met | null {
  const valued = values[side];
  const given = {
    ...{ sign: side === 'call' ? 1 : -1, strike: slice.strike, bid: slice[side].bid, ask: slice[side].ask },
    odds: valued[kind],
  };
  const found = targetStrike(given, slice.fit.forward, target);
  if (!found) return null;
  const { index } = found;
  return {
    ...found,
    side,
    delta: valued.delta[index]!,
    itm: valued.itm[index]!,
    touch: valued.touch[index]!,
    spread: width > 0 ? creditSpread(given, found, width, slice.fit.days) : null,
  };
}

/** What is taken in, and what is risked for it: a spread's width less it, else a put's strike in cash, or the underlying that covers a call. */
export function returnsOf(
  { side, strike, spread, ...alone }: Pick<Met, 'side' | 'strike' | 'spread' | 'credit'>,
  price: number,
): { credit: number; risk: number; share: number } {
  const credit = spread?.credit ?? alone.credit;
  const risk = spread?.risk ?? (side === 'put' ? strike : price) - credit;
  return { credit, risk, share: credit / risk };
}

export const TARGET_WORDS: Record<OddsKind, string> = {
  itm: 'to end in the money',
  touch: 'to touch the strike',
  breakEven: 'to end beyond the break-even',
};

/** Odds that the ladder of safety goes through, per cent. */
export const LADDER = [2, 5, 10, 15, 20, 25, 30, 40] as const;
