import { sideOf } from '../chain';
import type { Leg, OptionId, Side } from '../contracts';
import { logMoneynessAtDelta } from '../surface';
import type { ListedSlice } from './legs';

/** Structures of the trade, as they are placed: by forward deltas, in the expiry that is chosen and the next one. */
export const SHELF = [
  'call',
  'put',
  'call vertical',
  'put vertical',
  'straddle',
  'strangle',
  'risk reversal',
  'butterfly',
  'iron butterfly',
  'iron condor',
  'calendar',
  'diagonal',
  'ratio',
  'backspread',
] as const;
export type ShelfName = (typeof SHELF)[number];

/** A leg by the delta of its strike: that of a call, or that of a put without its sign; a half is the forward. */
interface ShelfLeg {
  readonly side: Side;
  readonly delta: number;
  readonly quantity: number;
  /** In the expiry after the one that is chosen. */
  readonly isLater?: boolean;
}

const call = (delta: number, quantity: number, isLater = false): ShelfLeg => ({
  side: 'call',
  delta,
  quantity,
  isLater,
});
const put = (delta: number, quantity: number): ShelfLeg => ({ side: 'put', delta, quantity });

/** Deltas are usual ones (common practice). Legs of a side stand in the order of their distance from the money. */
const LEGS: Record<ShelfName, readonly ShelfLeg[]> = {
  call: [call(0.5, 1)],
  put: [put(0.5, 1)],
  'call vertical': [call(0.5, 1), call(0.25, -1)],
  'put vertical': [put(0.25, -1), put(0.1, 1)],
  straddle: [call(0.5, 1), put(0.5, 1)],
  strangle: [call(0.25, 1), put(0.25, 1)],
  'risk reversal': [call(0.25, 1), put(0.25, -1)],
  butterfly: [call(0.75, 1), call(0.5, -2), call(0.25, 1)],
  'iron butterfly': [put(0.5, -1), put(0.15, 1), call(0.5, -1), call(0.15, 1)],
  'iron condor': [put(0.25, -1), put(0.1, 1), call(0.25, -1), call(0.1, 1)],
  calendar: [call(0.5, -1), call(0.5, 1, true)],
  diagonal: [call(0.3, -1), call(0.5, 1, true)],
  ratio: [call(0.5, 1), call(0.25, -2)],
  backspread: [call(0.5, -1), call(0.25, 2)],
};

/** Kinds whose wings are as far from their middle on either side. */
const SYMMETRIC: readonly ShelfName[] = ['butterfly', 'iron butterfly'];
/** Kinds whose legs stand on the same strike in both expiries. */
const SAME_STRIKE: readonly ShelfName[] = ['calendar'];

/** Positions of the strikes of a side that are quoted both ways. */
function quotedAt(slice: ListedSlice, side: Side): number[] {
  const { bid, ask } = sideOf(slice, side);
  return Array.from(slice.strike, (_, i) => i).filter((i) => bid[i]! > 0 && ask[i]! >= bid[i]!);
}

function nearest(slice: ListedSlice, at: readonly number[], level: number): number | undefined {
  const away = (i: number) => Math.abs(Math.log(slice.strike[i]! / level));
  return at.reduce<number | undefined>((best, i) => (best === undefined || away(i) < away(best) ? i : best), undefined);
}

/**
 * Places a structure of the shelf on listed strikes, each the nearest to its delta that is quoted both ways; legs of a side that
 * would meet on a strike move apart.
 *
 * @param chosen position of the expiry; a calendar's later leg is in the next one that is not of the same day
 * @returns null where strikes, a curve or a later expiry are missing
 */
export function placeOnShelf(
  { symbol, slices }: { readonly symbol: string; readonly slices: readonly ListedSlice[] },
  name: ShelfName,
  chosen: number,
): Leg<OptionId>[] | null {
  const first = slices[chosen];
  const later = slices.find(({ expiry, fit }) => first && fit.years > first.fit.years && expiry !== first.expiry);
  const legs: Leg<OptionId>[] = [];
  for (const { side, delta, quantity, isLater } of LEGS[name]) {
    const slice = isLater ? later : first;
    if (!slice?.fit.curve || !(slice.fit.years > 0)) return null;
    const { forward, curve } = slice.fit;
    const k = delta === 0.5 ? 0 : logMoneynessAtDelta(curve, side === 'call' ? delta : 1 - delta);
    const isSame = SAME_STRIKE.includes(name) && legs.length > 0;
    const level = isSame ? legs[0]!.strike : forward * Math.exp(k);
    const before = legs.findLast((leg) => leg.side === side && !isLater);
    const isCall = side === 'call';
    const free = quotedAt(slice, side).filter(
      (i) => !before || isSame || (isCall ? slice.strike[i]! > before.strike : slice.strike[i]! < before.strike),
    );
    const at = nearest(slice, free, level);
    if (at === undefined || (isSame && slice.strike[at] !== level)) return null;
    const { expiry, settlement } = slice;
    legs.push({ symbol, expiry, settlement, strike: slice.strike[at]!, side, quantity });
  }
  return SYMMETRIC.includes(name) && first ? evenWings(first, legs) : legs;
}

/** Moves the wings of a butterfly to where both are as far from its middle as the nearer one, where that is listed. */
function evenWings(slice: ListedSlice, legs: Leg<OptionId>[]): Leg<OptionId>[] {
  const middle = legs.find(({ quantity }) => quantity < 0)!.strike;
  const wings = legs.filter(({ quantity }) => quantity > 0);
  const width = Math.min(...wings.map(({ strike }) => Math.abs(strike - middle)));
  const moved = (leg: Leg<OptionId>) => middle + Math.sign(leg.strike - middle) * width;
  const isListed = wings.every((leg) => slice.strike.includes(moved(leg)));
  return isListed ? legs.map((leg) => (wings.includes(leg) ? { ...leg, strike: moved(leg) } : leg)) : legs;
}
