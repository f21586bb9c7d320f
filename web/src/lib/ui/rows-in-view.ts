/** Rows that are made beyond those in view, so that one that comes in is there already. */
const SPARE = 3;

/**
 * The rows in view by slots: each row has its slot as long as it is in view, and one that comes in takes that of one that has
 * gone, with its elements. Past the end slots are of no row.
 *
 * @returns by slot, the position of its row
 */
export function rowsInView(scrolled: number, height: number, rowHeight: number, count: number): number[] {
  const slots = Math.min(count, Math.ceil(height / rowHeight) + SPARE);
  if (slots === 0) return [];
  const first = Math.max(0, Math.min(count - slots, Math.floor(scrolled / rowHeight) - 1));
  const turn = first % slots;
  return Array.from({ length: slots }, (_, slot) => first + ((slot - turn + slots) % slots));
}
