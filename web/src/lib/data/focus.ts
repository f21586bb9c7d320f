import { expiryAt, expiryName, parseExpiryName, type ExpiryId, type NamedExpiry, type OptionId } from '@umwelt/core';
import type { Context } from '$lib/address';
import type { FittedSlice, LoadedSnapshot } from './snapshot';

/** A contract as it lies in a snapshot. */
export interface Focus extends OptionId {
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
export function expiryIndex(
  expiries: readonly (ExpiryId & { readonly days: number })[],
  { expiry, settlement }: NamedExpiry | Pick<Context, 'expiry' | 'settlement'>,
): number {
  if (expiries.length === 0) return -1;
  if (expiry === null)
    return nearestIndex(
      expiries.map(({ days }) => days),
      USUAL_DAYS,
    );
  const found = expiryAt(expiries, { expiry, settlement });
  const at = found >= 0 ? found : expiries.findIndex((one) => one.expiry >= expiry);
  return at >= 0 ? at : expiries.length - 1;
}

/** Names of the expiries that are meant by names, of which those without an `am` mean the only series of their day too. */
export function namedExpiries(expiries: readonly ExpiryId[], names: readonly string[]): ReadonlySet<string> {
  const meant = names.flatMap((name) => expiries[expiryAt(expiries, parseExpiryName(name)!)] ?? []);
  return new Set(meant.map(expiryName));
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
  wanted: Pick<Context, 'expiry' | 'settlement' | 'strike' | 'side'>,
): Focus | null {
  const at = expiryIndex(
    snapshot.slices.map(({ fit }) => fit),
    wanted,
  );
  const slice = snapshot.slices[at];
  if (!slice || slice.strike.length === 0) return null;
  const centre = centreOf(snapshot, slice);
  const index = nearestIndex(slice.strike, wanted.strike ?? centre);
  const strike = slice.strike[index]!;
  return {
    ...{ slice: at, index, symbol: snapshot.symbol, expiry: slice.expiry, settlement: slice.settlement, strike },
    side: wanted.side ?? (strike < centre ? 'put' : 'call'),
  };
}

/** A contract without where it lies. */
export function contractOf({ symbol, expiry, settlement, strike, side }: OptionId): OptionId {
  return { symbol, expiry, settlement, strike, side };
}

/** The contract some strikes up or down in the same expiry; at the end of the list it stays. */
export function moveStrike(snapshot: LoadedSnapshot, focus: Focus, steps: number): OptionId {
  const { strike } = snapshot.slices[focus.slice]!;
  const index = Math.max(0, Math.min(strike.length - 1, focus.index + steps));
  return { ...contractOf(focus), strike: strike[index]! };
}

/** The contract of the nearest strike in an earlier or later expiry. */
export function moveExpiry(snapshot: LoadedSnapshot, focus: Focus, steps: number): OptionId {
  const at = Math.max(0, Math.min(snapshot.slices.length - 1, focus.slice + steps));
  const slice = snapshot.slices[at]!;
  const strike = slice.strike[nearestIndex(slice.strike, focus.strike)]!;
  return { ...contractOf(focus), expiry: slice.expiry, settlement: slice.settlement, strike };
}
