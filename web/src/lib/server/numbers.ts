/** A number as it is stored and sent: null where it does not exist. */
export function orNull(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}
