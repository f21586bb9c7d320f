import { isSameExpiry, type ExpiryId } from '../contracts';
import { REASONS, type ReasonCode } from '../implied';
import type { Aside, Exclusion } from '../quality';
import type { SideQuotes } from './types';

const BY_HAND: ReasonCode = REASONS.indexOf('by-hand');

/** What somebody has said of the contracts of an expiry. */
export function exclusionsOn(expiry: ExpiryId, exclusions: readonly Exclusion[]): readonly Exclusion[] {
  return exclusions.filter((one) => isSameExpiry(one, expiry));
}

/** Contracts that somebody has set aside. */
export function byHand(exclusions: readonly Exclusion[]): Aside[] {
  return exclusions.flatMap(({ strike, side, decision }) =>
    decision === 'aside' && strike !== null && side !== null ? [{ strike, side, reason: BY_HAND }] : [],
  );
}

/** Whether an exclusion is of a contract. */
export function isSame(exclusion: Exclusion, { side, strike }: Pick<Aside, 'side' | 'strike'>): boolean {
  return exclusion.side === side && exclusion.strike === strike;
}

/** Marks quotes that are those of an earlier moment, with nothing traded since. */
export function unmoved(
  strike: Float64Array,
  now: SideQuotes,
  strikeThen?: Float64Array,
  then?: SideQuotes,
): Uint8Array {
  const marks = new Uint8Array(strike.length);
  if (!strikeThen || !then) return marks;
  for (let i = 0, j = 0; i < strike.length; i++) {
    while (j < strikeThen.length && strikeThen[j]! < strike[i]!) j++;
    if (strikeThen[j] !== strike[i]) continue;
    const isSame = now.bid[i] === then.bid[j] && now.ask[i] === then.ask[j];
    if (isSame && !(now.volume[i]! > 0)) marks[i] = 1;
  }
  return marks;
}
