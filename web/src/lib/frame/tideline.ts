/** Where the moments of the tideline stand, and the line that it draws. */

export interface TidePoint {
  instant: number;
  iv30: number;
}

/** Horizontal position of each moment, by time, between two margins. */
export function positions(instants: readonly number[], width: number, margin: number): number[] {
  const first = instants[0] ?? 0;
  const span = (instants.at(-1) ?? 0) - first;
  return instants.map((instant) => margin + (span > 0 ? (instant - first) / span : 1) * (width - 2 * margin));
}

/** The path of iv30 over the positions; a gap where there is none. */
export function tidePath(points: readonly TidePoint[], xs: readonly number[], top: number, bottom: number): string {
  const values = points.map((point) => point.iv30).filter(Number.isFinite);
  const low = Math.min(...values);
  const span = Math.max(...values) - low || 1;
  let isDrawing = false;
  return points
    .map((point, i) => {
      if (!Number.isFinite(point.iv30)) {
        isDrawing = false;
        return '';
      }
      const y = bottom - ((point.iv30 - low) / span) * (bottom - top);
      const command = isDrawing ? 'L' : 'M';
      isDrawing = true;
      return `${command}${xs[i]!.toFixed(1)} ${y.toFixed(1)}`;
    })
    .join('');
}

/** Position of the moment nearest to a place on the strip. */
export function nearestMoment(xs: readonly number[], x: number): number {
  let best = 0;
  for (let i = 1; i < xs.length; i++) if (Math.abs(xs[i]! - x) < Math.abs(xs[best]! - x)) best = i;
  return best;
}

/** First moments of months, to be labelled, none closer than a minimum to the one before. */
export function monthStarts(
  days: readonly string[],
  xs: readonly number[],
  apart: number,
): { at: number; day: string }[] {
  const starts: { at: number; day: string }[] = [];
  days.forEach((day, i) => {
    if (i > 0 && day.slice(0, 7) === days[i - 1]!.slice(0, 7)) return;
    if (starts.length > 0 && xs[i]! - xs[starts.at(-1)!.at]! < apart) return;
    starts.push({ at: i, day });
  });
  return starts;
}
