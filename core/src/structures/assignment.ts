import { isOption, type MarketStructure } from './moved';

/** A sold leg that its buyer would do well to exercise early. */
export interface EarlyAssignment {
  /** Place of the leg. */
  leg: number;
  /** What exercising earns: the next dividend, or the interest on what is paid for it. */
  earns: 'dividend' | 'interest';
  amount: number;
  /** What waiting is worth: the price less what exercising pays now. */
  timeValue: number;
}

/**
 * Sold American legs in the money whose time value is less than what exercising earns: a call the next cash dividend before its
 * expiry, a put the interest on its strike, either on a future that on what it pays (common practice).
 *
 * @param mids of the legs, by their place; NaN where there is none
 */
export function earlyAssignments(structure: MarketStructure, mids: readonly number[]): EarlyAssignment[] {
  const { legs, slices, around } = structure;
  if (around.on.exercise !== 'american') return [];
  return legs.flatMap((leg, at): EarlyAssignment[] => {
    if (!isOption(leg) || leg.quantity >= 0) return [];
    const { years, rate } = slices[leg.slice]!.fit;
    const intrinsic = (leg.side === 'call' ? 1 : -1) * (around.spot - leg.strike);
    const timeValue = mids[at]! - intrinsic;
    if (!(intrinsic > 0) || Number.isNaN(timeValue)) return [];
    const isFuture = around.on.kind === 'future';
    const isDividend = leg.side === 'call' && !isFuture;
    const dividend = around.dividends.find((one) => one.years > 0 && one.years < years)?.amount ?? 0;
    const interest = (isFuture ? intrinsic : leg.strike) * -Math.expm1(-rate * years);
    const amount = isDividend ? dividend : interest;
    return timeValue < amount ? [{ leg: at, earns: isDividend ? 'dividend' : 'interest', amount, timeValue }] : [];
  });
}
