/** Where the moments of the tideline stand, and which are labelled. */

/** Horizontal position of each moment, by time, between two margins. */
export function positions(instants: readonly number[], width: number, margin: number): number[] {
  const first = instants[0] ?? 0;
  const span = (instants.at(-1) ?? 0) - first;
  return instants.map((instant) => margin + (span > 0 ? (instant - first) / span : 1) * (width - 2 * margin));
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
