import type { Announced } from '$lib/data/events';
import { figures, type Sentence } from '$lib/formats';
import { numberColumns, type DataTable } from '$lib/tables';

/** The kinds of announcements, by name. */
export function kindsOf(rows: readonly Pick<Announced, 'kind'>[]): string[] {
  return [...new Set(rows.map(({ kind }) => kind))].sort();
}

/** Announcements as a file has them. */
export function announcedTable(rows: readonly Announced[]): DataTable {
  const share = (value: number) => figures.percent(value, 2);
  return {
    columns: [
      { name: 'time', type: 'instant' },
      { name: 'title', type: 'text' },
      { name: 'kind', type: 'text' },
      ...numberColumns(['vol_before', 'vol_after'], (value) => figures.vol(value, 2)),
      ...numberColumns(['change'], (value) => figures.volChange(value, 2)),
      ...numberColumns(['expected', 'move'], share),
      ...numberColumns(['ratio'], (value) => figures.fixed(value, 2)),
      ...numberColumns(['hours_to_half'], (value) => figures.fixed(value, 2)),
    ],
    rows: rows.map((row) => [
      ...[new Date(row.instant).toISOString(), row.title, row.kind, row.before.vol, row.after.vol],
      ...[row.change, row.expected, row.move, row.ratio, row.halfFall],
    ]),
  };
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value / values.length, 0);

/** What announcements did on average against what was expected. */
export function announcedSentence(rows: readonly Announced[], days: 7 | 30): Sentence {
  if (rows.length === 0)
    return { lead: 'No announcement of the past.', rest: 'None is held that has moments before and after it.' };
  const changes = rows.map(({ change }) => change);
  const ratios = rows.map(({ ratio }) => ratio).filter(Number.isFinite);
  const beyond = ratios.filter((ratio) => ratio > 1).length;
  const fall = mean(changes);
  const half = rows.map(({ halfFall }) => halfFall).filter(Number.isFinite);
  const moves =
    ratios.length > 0
      ? ` The price moved ${figures.fixed(mean(ratios), 2)} times what the straddle expected, beyond it ${figures.count(beyond)} of ${figures.counted(ratios.length, 'time')}.`
      : '';
  const speed = half.length > 0 ? ` Half of the fall was done ${figures.fixed(mean(half), 1)} hours after.` : '';
  return {
    lead: `The ${days}-day vol ${fall < 0 ? 'fell' : 'rose'} by ${figures.vol(Math.abs(fall))} points on average of ${figures.counted(rows.length, 'announcement')}.`,
    rest: `${moves}${speed}`.trim(),
  };
}
