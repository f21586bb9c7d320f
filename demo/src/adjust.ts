import type { Adjustment } from './world';

/**
 * A split or a special dividend: prices of before are in other terms. Contracts that were listed before keep their worth: their
 * strikes are taken along, and of a split there are as many more of them as of shares (common practice).
 */

/** A price or a strike of after the adjustment in the terms of before. */
export function inOldTerms({ kind, amount }: Adjustment, price: number): number {
  return kind === 'split' ? price * amount : price + amount;
}

/** A price or a strike of before the adjustment in the terms of after. */
export function inNewTerms({ kind, amount }: Adjustment, price: number): number {
  return Number((kind === 'split' ? price / amount : price - amount).toFixed(6));
}

/** How many contracts or shares one of before is. */
export function sharesOf({ kind, amount }: Adjustment): number {
  return kind === 'split' ? amount : 1;
}
