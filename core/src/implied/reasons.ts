/**
 * Why a quote is not used. Those up to `no-forward` have no implied volatility; the last ones have one, and are set
 * aside because it cannot be meant (see quality) or because somebody said so. The position in the list is its code.
 */
export const REASONS = [
  'usable',
  'below-intrinsic',
  'above-maximum',
  'zero-bid',
  'crossed',
  'stale',
  'wide',
  'expired',
  'no-forward',
  'off-curve',
  'off-parity',
  'by-hand',
] as const;
export type Reason = (typeof REASONS)[number];
/** The implied volatility of a price, or why there is none. */
export type ImpliedVolResult = { vol: number } | { reason: Exclude<Reason, 'usable'> };
/** Index into {@link REASONS}; 0 is usable. */
export type ReasonCode = number;

/** A spread wider than this share of the mid price is no price to fit to (common practice). */
export const WIDE_SPREAD = 1;

/** The name of a code. */
export function reasonName(code: ReasonCode): Reason {
  return REASONS[code] ?? 'usable';
}

/**
 * Judges a two-sided quote alone, before any model.
 *
 * @param bid bid price, NaN when there is none
 * @param ask ask price, NaN when there is none
 * @returns 0 when it can be used, else the code of the reason
 */
export function quoteReason(bid: number, ask: number): ReasonCode {
  if (!(bid > 0)) return REASONS.indexOf('zero-bid');
  if (!(ask > bid)) return REASONS.indexOf('crossed');
  if (ask - bid > WIDE_SPREAD * 0.5 * (bid + ask)) return REASONS.indexOf('wide');
  return 0;
}
