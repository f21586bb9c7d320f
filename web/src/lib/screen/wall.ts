import { linePath } from '$lib/charts/line-path';
import type { Wall } from '$lib/state';

/** What a wall asks of every underlying: formulas by session, or as they are now. */
interface WallSource {
  series: readonly string[];
  columns: readonly string[];
}

/** Days of the vols of a term structure. */
export const TERM_DAYS = [7, 30, 60, 90, 180, 360] as const;

export const WALL_SOURCES: Record<Exclude<Wall, 'none'>, WallSource> = {
  vols: { series: ['iv30', 'hv20.yz'], columns: [] },
  term: { series: [], columns: TERM_DAYS.map((days) => `iv${days}`) },
  price: { series: ['price'], columns: [] },
};

/** A line of a small chart: where its points stand along it, and their values; NaN breaks it. */
export interface SmallLine {
  x: readonly number[];
  y: readonly number[];
}

/** The lines of an underlying on a wall. */
export function wallLines(
  wall: Exclude<Wall, 'none'>,
  { series, columns }: { series: readonly (readonly (number | null)[])[]; columns: readonly (number | null)[] },
): SmallLine[] {
  const numbers = (values: readonly (number | null)[]) => values.map((value) => value ?? NaN);
  if (wall === 'term') return [{ x: TERM_DAYS.map((days) => Math.log(days)), y: numbers(columns) }];
  return series.map((values) => ({ x: values.map((_, i) => i), y: numbers(values) }));
}

/** From where to where values of lines go; null where there are none. */
export function rangeOf(lines: readonly SmallLine[]): [low: number, high: number] | null {
  let low = Infinity;
  let high = -Infinity;
  for (const { y } of lines)
    for (const value of y) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
  return low <= high ? [low, high] : null;
}

/** The lines on a logarithmic scale, on which vols of very different sizes can share an axis; what is not positive is left out. */
export function logarithmic(lines: readonly SmallLine[]): SmallLine[] {
  return lines.map(({ x, y }) => ({ x, y: y.map((value) => (value > 0 ? Math.log(value) : NaN)) }));
}

/** Least height of a chart of its own, as a share of its middle: a line that hardly moves is to look so. */
const LEAST_SPAN = 0.1;

/** A range that is no narrower than a tenth of its middle. */
export function widened([low, high]: readonly [low: number, high: number]): [low: number, high: number] {
  const middle = 0.5 * (low + high);
  const half = Math.max(0.5 * (high - low), 0.5 * LEAST_SPAN * Math.abs(middle));
  return [middle - half, middle + half];
}

/** A line as the path of an SVG in a box; it is empty where there is nothing. */
export function smallPath(
  { x, y }: SmallLine,
  range: readonly [low: number, high: number],
  { width, height }: { width: number; height: number },
): string {
  const [first, last] = [x[0] ?? 0, x.at(-1) ?? 1];
  const xs = x.map((value) => (last > first ? (width * (value - first)) / (last - first) : width / 2));
  return linePath(y, xs, 0, height, range);
}
