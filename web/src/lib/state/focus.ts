import type { Context } from './context';
import type { FittedSlice, LoadedSnapshot } from '$lib/workers/snapshot';

/** A contract by its terms. */
export interface Contract {
  expiry: string;
  strike: number;
  side: 'call' | 'put';
}

/** A contract as it lies in a snapshot. */
export interface Focus extends Contract {
  /** Position of the expiry and of the strike. */
  slice: number;
  index: number;
}

const USUAL_DAYS = 30;

/** Position of the value nearest to a number; 0 for an empty list. */
export function nearestIndex(values: ArrayLike<number>, target: number): number {
  let best = 0;
  for (let i = 1; i < values.length; i++) {
    if (Math.abs(values[i]! - target) < Math.abs(values[best]! - target)) best = i;
  }
  return best;
}

/**
 * Position of the expiry that is meant among those of a moment; where it is not listed the next one, the last after it, and
 * without a wish the one nearest to 30 days. −1 of none.
 */
export function expiryIndex(expiries: readonly { expiry: string; days: number }[], wanted: string | null): number {
  if (expiries.length === 0) return -1;
  if (wanted === null)
    return nearestIndex(
      expiries.map(({ days }) => days),
      USUAL_DAYS,
    );
  const at = expiries.findIndex(({ expiry }) => expiry >= wanted);
  return at >= 0 ? at : expiries.length - 1;
}

/** The forward of an expiry, or the price where it has none. */
export function centreOf(snapshot: LoadedSnapshot, slice: FittedSlice): number {
  return Number.isFinite(slice.fit.forward) ? slice.fit.forward : snapshot.price;
}

/**
 * The contract that the context means in a snapshot: the nearest there is to what it names, and what it does not
 * name near 30 days and at the money, on the out-of-the-money side.
 *
 * @returns null for a snapshot without contracts
 */
export function resolveFocus(
  snapshot: LoadedSnapshot,
  wanted: Pick<Context, 'expiry' | 'strike' | 'side'>,
): Focus | null {
  const at = expiryIndex(
    snapshot.slices.map(({ fit }) => fit),
    wanted.expiry,
  );
  const slice = snapshot.slices[at];
  if (!slice || slice.strike.length === 0) return null;
  const centre = centreOf(snapshot, slice);
  const index = nearestIndex(slice.strike, wanted.strike ?? centre);
  const strike = slice.strike[index]!;
  return { slice: at, index, expiry: slice.expiry, strike, side: wanted.side ?? (strike < centre ? 'put' : 'call') };
}

/** The contract some strikes up or down in the same expiry; at the end of the list it stays. */
export function moveStrike(snapshot: LoadedSnapshot, focus: Focus, steps: number): Contract {
  const { strike } = snapshot.slices[focus.slice]!;
  const index = Math.max(0, Math.min(strike.length - 1, focus.index + steps));
  return { expiry: focus.expiry, strike: strike[index]!, side: focus.side };
}

/** The contract of the nearest strike in an earlier or later expiry. */
export function moveExpiry(snapshot: LoadedSnapshot, focus: Focus, steps: number): Contract {
  const at = Math.max(0, Math.min(snapshot.slices.length - 1, focus.slice + steps));
  const slice = snapshot.slices[at]!;
  return { expiry: slice.expiry, strike: slice.strike[nearestIndex(slice.strike, focus.strike)]!, side: focus.side };
}
