/** ACT/365F to the minute. */
export const MINUTES_PER_YEAR = 525_600;
export const MILLISECONDS_PER_DAY = 86_400_000;

const MILLISECONDS_PER_MINUTE = 60_000;

/**
 * Years from one instant to another, ACT/365F to the minute: minutes ÷ 525 600.
 *
 * @param from instant in milliseconds (UTC)
 * @param to instant in milliseconds (UTC)
 * @returns years, negative when `to` is earlier
 * @example yearsBetween(Date.UTC(2031, 0, 1), Date.UTC(2032, 0, 1)) // 1
 */
export function yearsBetween(from: number, to: number): number {
  return Math.round((to - from) / MILLISECONDS_PER_MINUTE) / MINUTES_PER_YEAR;
}

/** The instant that lies so many years after another: what {@link yearsBetween} counts, the other way round. */
export function instantAfter(from: number, years: number): number {
  return from + Math.round(years * MINUTES_PER_YEAR) * MILLISECONDS_PER_MINUTE;
}
