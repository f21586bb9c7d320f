/** A system of equations that says one thing twice, or nearly so, is told from one that does not by this condition (1-norm). */
const MOST_CONDITION = 1e10;

const largest = (values: readonly number[]) => values.reduce((most, value) => Math.max(most, Math.abs(value)), 0);

/** The largest sum of a column's sizes. */
function norm(matrix: readonly (readonly number[])[]): number {
  return largest(matrix.map((_, j) => matrix.reduce((sum, row) => sum + Math.abs(row[j]!), 0)));
}

/** Solves square equations for some right sides by Gauss's elimination with pivots. @returns null where a pivot is nothing */
function eliminate(matrix: readonly (readonly number[])[], right: readonly (readonly number[])[]): number[][] | null {
  const size = matrix.length;
  const rows = matrix.map((row, i) => [...row, ...right[i]!]);
  for (let at = 0; at < size; at++) {
    const pivot = rows
      .slice(at)
      .reduce((best, row, i) => (Math.abs(row[at]!) > Math.abs(rows[best]![at]!) ? at + i : best), at);
    if (rows[pivot]![at] === 0) return null;
    [rows[at], rows[pivot]] = [rows[pivot]!, rows[at]!];
    for (let i = 0; i < size; i++) {
      if (i === at) continue;
      const factor = rows[i]![at]! / rows[at]![at]!;
      if (factor !== 0) rows[i] = rows[i]!.map((value, j) => value - factor * rows[at]![j]!);
    }
  }
  return rows.map((row, i) => row.slice(size).map((value) => value / row[i]!));
}

/**
 * Solves square equations. Rows and columns are scaled to a largest entry of one before their condition is judged, so that units
 * of what is asked do not count.
 *
 * @param matrix rows of equations
 * @returns null where they say one thing twice: a scaled condition over 1e10
 */
export function solveSquare(matrix: readonly (readonly number[])[], right: readonly number[]): number[] | null {
  const rowSizes = matrix.map(largest);
  if (rowSizes.includes(0)) return null;
  const evened = matrix.map((row, i) => row.map((value) => value / rowSizes[i]!));
  const columnSizes = evened.map((_, j) => largest(evened.map((row) => row[j]!)));
  if (columnSizes.includes(0)) return null;
  const scaled = evened.map((row) => row.map((value, j) => value / columnSizes[j]!));
  const unit = scaled.map((_, i) => scaled.map((__, j) => Number(i === j)));
  const inverse = eliminate(scaled, unit);
  if (!inverse || !(norm(scaled) * norm(inverse) <= MOST_CONDITION)) return null;
  const found = eliminate(
    scaled,
    right.map((value, i) => [value / rowSizes[i]!]),
  );
  return found && found.map(([value], j) => value! / columnSizes[j]!);
}
