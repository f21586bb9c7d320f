import { type StrikeRange } from './params';
import type { FittedSlice } from '$lib/data';

/** One line of the chain: the head of an expiry, a strike, or the water at the forward. */
export type ChainItem =
  | { kind: 'head'; slice: number }
  | { kind: 'strike'; slice: number; index: number }
  | { kind: 'water'; slice: number };

/** Positions of the strikes that are listed, the lowest and the highest; none where an expiry has none within. */
export function strikesWithin(
  { strike, fit }: Pick<FittedSlice, 'strike'> & { fit: Pick<FittedSlice['fit'], 'forward' | 'atmVol' | 'years'> },
  by: StrikeRange,
  size: number,
): [number, number] | null {
  const last = strike.length - 1;
  const { forward, atmVol, years } = fit;
  if (last < 0) return null;
  if (by === 'all' || !(forward > 0)) return [0, last];
  // The first strike over the forward.
  const over = strike.findIndex((level) => level > forward);
  const middle = over < 0 ? strike.length : over;
  if (by === 'strikes') return [Math.max(0, middle - size), Math.min(last, middle + size - 1)];
  const reach = by === 'percent' ? Math.log(1 + size / 100) : size * atmVol * Math.sqrt(years);
  if (!Number.isFinite(reach)) return [0, last];
  // So many per cent are of the forward on both sides alike.
  const low = by === 'percent' ? forward * (1 - size / 100) : forward * Math.exp(-reach);
  const high = forward * Math.exp(reach);
  const from = strike.findIndex((level) => level >= low);
  const to = strike.findLastIndex((level) => level <= high);
  return from < 0 || to < from ? null : [from, to];
}

/**
 * Lines of a chain from the top: each expiry with its head, and where it is unfolded its strikes, the highest first, with the
 * water where the forward lies.
 */
export function chainItems(
  slices: readonly FittedSlice[],
  isOpen: (slice: number) => boolean,
  by: StrikeRange,
  size: number,
): ChainItem[] {
  const items: ChainItem[] = [];
  slices.forEach((one, slice) => {
    items.push({ kind: 'head', slice });
    const within = isOpen(slice) ? strikesWithin(one, by, size) : null;
    if (!within) return;
    let isWet = !(one.fit.forward > 0);
    for (let index = within[1]; index >= within[0]; index--) {
      if (!isWet && one.strike[index]! <= one.fit.forward) {
        items.push({ kind: 'water', slice });
        isWet = true;
      }
      items.push({ kind: 'strike', slice, index });
    }
    if (!isWet) items.push({ kind: 'water', slice });
  });
  return items;
}

/** Whether a strike lies within one expected move of the forward, is the first beyond it, or farther out. */
export type MovePlace = 'inside' | 'at' | 'outside';

/** Where a strike stands against the expected move. @param move in money, NaN where there is none */
export function placeInMove(strike: ArrayLike<number>, index: number, forward: number, move: number): MovePlace {
  const level = strike[index]!;
  const isInside = (value: number | undefined) => value !== undefined && Math.abs(value - forward) <= move;
  if (!(move > 0)) return 'outside';
  if (isInside(level)) return 'inside';
  return isInside(strike[index - 1]) || isInside(strike[index + 1]) ? 'at' : 'outside';
}
