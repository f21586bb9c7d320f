import { REGIMES, type PremiumSession, type PremiumSummary, type Regime } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { figures, type Sentence } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, MONO, type Figure, type HeldRange } from '$lib/charts/figure';

export interface PremiumInput {
  dates: readonly string[];
  sessions: readonly PremiumSession[];
  /** Sessions of the horizon. */
  horizon: number;
  key: string;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

/** Implied vol of each session over what was realized after it, and what the one earned over the other below. */
export function premiumFigure({ dates, sessions, horizon, key, tokens, ranges }: PremiumInput): Figure {
  const x = [...dates];
  const drawn = (read: (one: PremiumSession) => number) =>
    sessions.map((one) => (Number.isFinite(read(one)) ? 100 * read(one) : null)) as number[];
  const gaps = drawn(({ implied, after }) => implied - after);
  const vols = [...drawn(({ implied }) => implied), ...drawn(({ after }) => after)].filter((value) => value !== null);
  const line = (y: number[], name: string, color: string, dash: 'solid' | 'dash'): Data => ({
    type: 'scatter',
    mode: 'lines',
    x,
    y,
    name,
    line: { color, width: 1.8, dash },
    hovertemplate: '%{y:.1f} %',
  });
  const title = (text: string) => ({ text, font: { family: MONO, size: 11, color: tokens.soft }, standoff: 6 });
  return {
    data: [
      line(
        drawn(({ implied }) => implied),
        'implied',
        tokens.implied,
        'solid',
      ),
      line(
        drawn(({ after }) => after),
        `realized in the ${horizon} sessions after`,
        tokens.realized,
        'dash',
      ),
      {
        type: 'bar',
        x,
        y: gaps,
        name: 'earned, points',
        yaxis: 'y2',
        marker: { color: gaps.map((gap) => (gap >= 0 ? tokens.gain : tokens.loss)) },
        hovertemplate: '%{y:+.1f}',
      } as Data,
    ],
    layout: {
      ...baseLayout(tokens),
      hovermode: 'x unified',
      margin: { l: 52, r: 12, t: 8, b: 36 },
      bargap: 0.2,
      xaxis: {
        ...baseAxis(tokens),
        type: 'date',
        anchor: 'y2',
        range: [x[0], x.at(-1)],
        hoverformat: '%a %-d %b %Y',
        rangebreaks: [{ bounds: ['sat', 'mon'] }],
        tickformat: '%-d %b\n%Y',
      },
      yaxis: {
        ...baseAxis(tokens),
        domain: [0.4, 1],
        range: ranges.x.of(key, vols),
        title: title('vol %'),
        tickformat: '~f',
      },
      yaxis2: {
        ...baseAxis(tokens),
        domain: [0, 0.34],
        range: ranges.y.of(key, [0, ...gaps.filter((gap) => gap !== null)]),
        title: title('points'),
        zeroline: true,
        zerolinecolor: tokens.soft,
        tickformat: '~f',
      } as Layout['yaxis'],
    },
    table: () => ({
      columns: [
        { name: 'date', type: 'day' },
        ...numberColumns(['implied', 'realized_after'], (value) => figures.vol(value, 2)),
        ...numberColumns(['rank'], (value) => figures.fixed(100 * value, 0)),
      ],
      rows: sessions.map(({ implied, after, rank }, i) => [x[i]!, implied, after, rank]),
    }),
  };
}

const REGIME_WORDS: Record<Regime, string> = { low: 'low third', middle: 'middle', high: 'high third' };

/**
 * Rows of the summary: all sessions, by where implied stood in its past, and against what was known on each session.
 *
 * @param known the summary against the historical vol of a name
 */
export function premiumRows(
  all: PremiumSummary | null,
  byRegime: Record<Regime, PremiumSummary | null>,
  known: { name: string; summary: PremiumSummary | null },
): { name: string; summary: PremiumSummary | null }[] {
  return [
    { name: 'all', summary: all },
    ...REGIMES.map((regime) => ({ name: REGIME_WORDS[regime], summary: byRegime[regime] })),
    { name: `over ${known.name} as it was known`, summary: known.summary },
  ];
}

/** What implied vols were worth afterwards, and what they stand at now against what was known. */
export function premiumSentence(
  all: PremiumSummary | null,
  byRegime: Record<Regime, PremiumSummary | null>,
  now: Regime | null,
  name: string,
  horizon: number,
): Sentence {
  if (!all)
    return { lead: 'No premium yet.', rest: `No session is held whose ${horizon} sessions afterwards are over.` };
  const mean = `${figures.vol(Math.abs(all.mean))} points ${all.mean < 0 ? 'under' : 'over'}`;
  const lead = `${name} was ${mean} what came after, on average of ${figures.counted(all.sessions, 'session')};`;
  const over = `it was over on ${figures.percent(all.over, 0)} of them.`;
  const then = now ? byRegime[now] : null;
  if (!then || !now) return { lead, rest: over };
  return {
    lead,
    rest: `${over} Now it ranks in the ${REGIME_WORDS[now]}, where it was ${figures.vol(Math.abs(then.mean))} ${then.mean < 0 ? 'under' : 'over'} (${figures.counted(then.sessions, 'session')}).`,
  };
}
