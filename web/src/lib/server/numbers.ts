/** A number as it is stored and sent: null where it does not exist. */
export function orNull(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}

/** The years that days and moments may lie in: none of a market that is held is out of them, and each month is a table. */
export const FIRST_YEAR = 1990;
export const LAST_YEAR = 2100;
export const isYear = (year: number) => year >= FIRST_YEAR && year <= LAST_YEAR;
