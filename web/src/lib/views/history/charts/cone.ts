import { CONE_SHARES, type ConeSlice } from '@umwelt/core';
import type { Data } from 'plotly.js';
import { figures, type Sentence } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, type Figure, type HeldRange } from '$lib/charts/figure';

export interface ConeInput {
  /** By window, ascending. */
  slices: readonly ConeSlice[];
  /** Whether what overlapping hides is made good. */
  isCorrected: boolean;
  /** Today's vols at the money by sessions to expiry, decimals. */
  term: readonly { sessions: number; vol: number; expiry: string }[];
  key: string;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

const quantilesOf = ({ quantiles, corrected }: ConeSlice, isCorrected: boolean) =>
  isCorrected ? corrected : quantiles;

/** Quantiles of historical vols by window as nested bands, the latest of them, and today's term structure over them. */
export function coneFigure({ slices, isCorrected, term, key, tokens, ranges }: ConeInput): Figure {
  const held = slices.filter(({ count, mean, corrected }) => count > 0 && Number.isFinite(mean + corrected[0]!));
  const x = held.map(({ window }) => window);
  const at = (share: number) =>
    held.map((slice) => 100 * quantilesOf(slice, isCorrected)[CONE_SHARES.indexOf(share as 0)]!);
  const edge = (share: number, fill: boolean, opacity: number): Data =>
    ({
      type: 'scatter',
      mode: 'lines',
      x,
      y: at(share),
      line: { color: tokens.realized, width: 0.8 },
      ...(fill
        ? {
            fill: 'tonexty',
            fillcolor: `${tokens.realized}${Math.round(255 * opacity)
              .toString(16)
              .padStart(2, '0')}`,
          }
        : {}),
      hovertemplate: `${share === 0 ? 'lowest' : share === 1 ? 'highest' : `${100 * share} %`} over %{x} sessions: %{y:.1f} %<extra></extra>`,
    }) as Data;
  const data: Data[] = [
    edge(0, false, 0),
    edge(1, true, 0.07),
    edge(0.1, false, 0),
    edge(0.9, true, 0.1),
    edge(0.25, false, 0),
    edge(0.75, true, 0.14),
    {
      type: 'scatter',
      mode: 'lines',
      x,
      y: at(0.5),
      line: { color: tokens.realized, width: 2 },
      hovertemplate: 'middle over %{x} sessions: %{y:.1f} %<extra></extra>',
    },
    {
      type: 'scatter',
      mode: 'markers',
      x,
      y: held.map(({ now }) => 100 * now),
      marker: { symbol: 'diamond-open', size: 9, color: tokens.ink, line: { width: 1.6, color: tokens.ink } },
      hovertemplate: 'now over %{x} sessions: %{y:.1f} %<extra></extra>',
    },
    {
      type: 'scatter',
      mode: 'lines+markers',
      x: term.map(({ sessions }) => sessions),
      y: term.map(({ vol }) => 100 * vol),
      line: { color: tokens.implied, width: 2 },
      marker: { size: 7, color: tokens.implied },
      text: term.map(({ expiry }) => expiry),
      hovertemplate: 'implied to %{text}, %{x} sessions: %{y:.1f} %<extra></extra>',
    },
  ];
  const days = [...x, ...term.map(({ sessions }) => sessions)].filter((value) => value > 0);
  const vols = [...at(0), ...at(1), ...term.map(({ vol }) => 100 * vol)].filter(Number.isFinite);
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      margin: { l: 44, r: 12, t: 10, b: 30 },
      xaxis: {
        ...baseAxis(tokens),
        type: 'log',
        range: ranges.x.of(key, days.map(Math.log10), 0.03),
        tickvals: [5, 10, 20, 30, 60, 90, 120, 252],
        ticktext: ['5', '10', '20', '30', '60', '90', '120', '252'],
      },
      yaxis: { ...baseAxis(tokens), range: ranges.y.of(`${key} ${isCorrected}`, vols, 0.06), tickformat: '~f' },
    },
    table: () => ({
      columns: [
        ...numberColumns(['window']),
        ...numberColumns(
          CONE_SHARES.map((share) => (share === 0 ? 'lowest' : share === 1 ? 'highest' : `${100 * share} %`)),
          (value) => figures.vol(value, 2),
        ),
        ...numberColumns(['now'], (value) => figures.vol(value, 2)),
        ...numberColumns(['windows', 'independent'], figures.count),
      ],
      rows: held.map((slice) => [
        slice.window,
        ...quantilesOf(slice, isCorrected),
        slice.now,
        slice.count,
        slice.independent,
      ]),
    }),
  };
}

/** Where an implied vol lies among what vols over as many sessions were. */
export function coneSentence({
  slices,
  isCorrected,
  term,
}: Pick<ConeInput, 'slices' | 'isCorrected' | 'term'>): Sentence {
  const held = slices.filter(({ count, corrected }) => count > 0 && Number.isFinite(corrected[0]!));
  const [first] = held;
  if (!first || term.length === 0)
    return { lead: 'No cone.', rest: 'Too few sessions are held, or no expiry has a vol.' };
  // The expiry whose sessions are nearest to a window.
  const near = (window: number) =>
    term.reduce((best, one) =>
      Math.abs(Math.log(one.sessions / window)) < Math.abs(Math.log(best.sessions / window)) ? one : best,
    );
  const usable = held.filter(({ window }) => Math.abs(Math.log(near(window).sessions / window)) < 0.4);
  const slice = usable.find(({ window }) => window >= 20) ?? usable[0] ?? first;
  const { sessions, vol } = near(slice.window);
  const quantiles = quantilesOf(slice, isCorrected);
  const above = CONE_SHARES.filter((_, i) => vol > quantiles[i]!).at(-1);
  const where =
    above === undefined
      ? 'under all that was realized'
      : above === 1
        ? 'over all that was realized'
        : `over ${above === 0 ? 'the lowest' : `${figures.fixed(100 * above, 0)} %`} of what was realized`;
  return {
    lead: `${figures.vol(vol)} % implied over ${sessions} sessions lies ${where}`,
    rest: `over ${slice.window}, of ${figures.count(slice.count)} windows that overlap (${figures.count(slice.independent)} that do not${isCorrected ? '; the spread is widened for it' : ''}); the middle was ${figures.vol(quantiles[CONE_SHARES.indexOf(0.5)]!)}, now it is ${figures.vol(slice.now)}.`,
  };
}
