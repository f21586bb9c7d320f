import type { ExpiryFit } from '../chain';
import type { Side } from '../contracts';
import { isOption, type MarketStructure } from './moved';
import type { MarketAround } from './scenario';

/** What exercising an option early earns, and what it gives up. */
export interface EarlyExercise {
  /** What exercising earns: the next dividend, or the interest on what is paid for it. */
  earns: 'dividend' | 'interest';
  amount: number;
  /** What waiting is worth: the price less what exercising pays now. */
  timeValue: number;
}

/** A sold leg that its buyer would do well to exercise early. */
export interface EarlyAssignment extends EarlyExercise {
  /** Place of the leg. */
  leg: number;
}

/**
 * An American option in the money whose time value is less than what exercising earns: a call the next cash dividend before its
 * expiry, a put the interest on its strike, either on a future that on what it pays (common practice).
 *
 * @param price of the option; NaN where there is none
 * @returns null where its holder does better to wait, or where that is not known
 */
export function exercisedEarly(
  { side, strike }: { side: Side; strike: number },
  { years, rate }: Pick<ExpiryFit, 'years' | 'rate'>,
  { on, spot, dividends }: Pick<MarketAround, 'on' | 'spot' | 'dividends'>,
  price: number,
): EarlyExercise | null {
  const intrinsic = (side === 'call' ? 1 : -1) * (spot - strike);
  const timeValue = price - intrinsic;
  if (on.exercise !== 'american' || !(intrinsic > 0) || Number.isNaN(timeValue)) return null;
  const isFuture = on.kind === 'future';
  const isDividend = side === 'call' && !isFuture;
  const dividend = dividends.find((one) => one.years > 0 && one.years < years)?.amount ?? 0;
  const interest = (isFuture ? intrinsic : strike) * -Math.expm1(-rate * years);
  const amount = isDividend ? dividend : interest;
  return timeValue < amount ? { earns: isDividend ? 'dividend' : 'interest', amount, timeValue } : null;
}

/**
 * Sold legs that are {@link exercisedEarly}.
 *
 * @param mids of the legs, by their place; NaN where there is none
 */
export function earlyAssignments(structure: MarketStructure, mids: readonly number[]): EarlyAssignment[] {
  const { legs, slices, around } = structure;
  return legs.flatMap((leg, at): EarlyAssignment[] => {
    if (!isOption(leg) || leg.quantity >= 0) return [];
    const early = exercisedEarly(leg, slices[leg.slice]!.fit, around, mids[at]!);
    return early ? [{ leg: at, ...early }] : [];
  });
}
