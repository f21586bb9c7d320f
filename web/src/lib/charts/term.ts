import { expiryClass, instantOf, MILLISECONDS_PER_DAY, type Calendar } from '@umwelt/core';
import type { Data, Layout, Shape } from 'plotly.js';
import { figures, shortDay } from '$lib/formats';
import type { MarketEvent } from '$lib/state/api';
import type { Focus } from '$lib/state/focus';
import type { Tokens } from '$lib/state/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import type { FittedSlice, LoadedSnapshot } from '$lib/workers';
import { depthColor } from './depth';
import { baseAxis, baseLayout, HeldRange, MONO, type Figure } from './figure';

export interface TermInput {
  snapshot: LoadedSnapshot;
  ghost: LoadedSnapshot | null;
  calendar: Calendar;
  weeklies: boolean;
  events: readonly MarketEvent[];
  realizedVol: number;
  lit: Focus | null;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

const MOST_EVENTS = 2;
/** Days between labelled expiries, as a ratio: nearer ones would overprint on the logarithmic axis. */
const LABEL_RATIO = 1.32;

/** The expiries of the term structure: those with a curve that are in use, weeklies in or out. */
export function termSlices(snapshot: LoadedSnapshot, calendar: Calendar, weeklies: boolean): FittedSlice[] {
  return snapshot.slices.filter(
    ({ fit, expiry }) =>
      fit.curve && fit.expiryAside === null && fit.days > 0 && (weeklies || expiryClass(calendar, expiry) !== 'weekly'),
  );
}

/** Announcements still to come before the last expiry, with the days until them. */
export function comingEvents(
  events: readonly MarketEvent[],
  instant: number,
  lastDays: number,
  calendar: Calendar,
): { title: string; kind: string; days: number }[] {
  return events.flatMap(({ date, start, title, kind }) => {
    const at = start ? Date.parse(start) : instantOf(calendar, date, calendar.open);
    const days = (at - instant) / MILLISECONDS_PER_DAY;
    return days > 0 && days < lastDays ? [{ title, kind, days }] : [];
  });
}

function labelled(slices: readonly FittedSlice[]): number[] {
  const labels: number[] = [];
  for (const { fit } of slices) {
    if (labels.length === 0 || fit.days / labels.at(-1)! >= LABEL_RATIO) labels.push(fit.days);
  }
  return labels;
}

/** ATM vol by days to expiry, with realized vol, the ghost and what is announced. */
export function termFigure(input: TermInput): Figure {
  const { snapshot, ghost, calendar, weeklies, events, realizedVol, lit, tokens, ranges } = input;
  const slices = termSlices(snapshot, calendar, weeklies);
  const ghosts = ghost ? termSlices(ghost, calendar, weeklies) : [];
  const lastDays = slices.at(-1)?.fit.days ?? 1;
  const coming = comingEvents(events, snapshot.instant, lastDays, calendar)
    .filter((event) => !event.kind.startsWith('dividend'))
    .slice(0, MOST_EVENTS);
  const litSlice = lit ? snapshot.slices[lit.slice] : undefined;
  const data: Data[] = [
    {
      type: 'scatter',
      mode: 'lines',
      x: ghosts.map(({ fit }) => fit.days),
      y: ghosts.map(({ fit }) => 100 * fit.atmVol),
      line: { color: tokens.faint, width: 1.4, dash: 'dash' },
      hoverinfo: 'skip',
    },
    {
      type: 'scatter',
      mode: 'lines+markers',
      x: slices.map(({ fit }) => fit.days),
      y: slices.map(({ fit }) => 100 * fit.atmVol),
      customdata: slices.map(({ expiry }) => [expiry]) as never,
      text: slices.map(
        ({ expiry, fit }) =>
          `${shortDay(expiry)} · ${figures.days(fit.days)} days<br>ATM ${figures.vol(fit.atmVol, 2)} %`,
      ),
      hovertemplate: '%{text}<extra></extra>',
      line: { color: tokens.implied, width: 1.8 },
      marker: {
        size: slices.map((slice) => (slice === litSlice ? 12 : 8)),
        color: slices.map(({ fit }) => depthColor(fit.days, tokens)),
        line: {
          color: slices.map((slice) => (slice === litSlice ? tokens.focus : tokens.panel)),
          width: slices.map((slice) => (slice === litSlice ? 2.5 : 1)),
        },
      },
    },
  ];
  const hasRealized = Number.isFinite(realizedVol);
  const key = `${snapshot.symbol} ${weeklies}`;
  const vols = [...slices, ...ghosts].map(({ fit }) => 100 * fit.atmVol);
  const [low, high] = ranges.y.of(key, hasRealized ? [...vols, 100 * realizedVol] : vols, 0.12);
  const shapes: Partial<Shape>[] = coming.map(({ days }) => ({
    type: 'line',
    x0: days,
    x1: days,
    yref: 'paper',
    y0: 0,
    y1: 1,
    line: { color: tokens.loss, width: 1, dash: 'dot' },
  }));
  if (hasRealized) {
    shapes.push({
      type: 'line',
      xref: 'paper',
      x0: 0,
      x1: 1,
      y0: 100 * realizedVol,
      y1: 100 * realizedVol,
      line: { color: tokens.realized, width: 1.6, dash: 'dash' },
    });
  }
  const text = (content: Partial<Layout['annotations'][number]>, color: string) =>
    ({ showarrow: false, font: { family: MONO, size: 11, color }, ...content }) as Layout['annotations'][number];
  const label = labelled(slices);
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      margin: { l: 34, r: 12, t: 18, b: 24 },
      xaxis: {
        ...baseAxis(tokens),
        type: 'log',
        range: ranges.x.of(
          key,
          slices.map(({ fit }) => Math.log10(fit.days)),
          0.05,
        ),
        tickvals: label,
        ticktext: label.map((days) => figures.days(days)),
      },
      yaxis: { ...baseAxis(tokens), range: [low, high], tickformat: '~f' },
      shapes: shapes as Shape[],
      annotations: [
        ...coming.map(({ days, kind }) =>
          text({ x: Math.log10(days), y: 1, yref: 'paper', yanchor: 'bottom', text: `◆ ${kind}` }, tokens.loss),
        ),
        ...(hasRealized
          ? [
              text(
                {
                  xref: 'paper',
                  x: 1,
                  xanchor: 'right',
                  y: 100 * realizedVol,
                  yanchor: 100 * realizedVol < (low + high) / 2 ? 'bottom' : 'top',
                  text: `realized 20 d ${figures.vol(realizedVol)}`,
                },
                tokens.realized,
              ),
            ]
          : []),
      ],
    },
    table: () => ({
      columns: [
        { name: 'expiry', type: 'day' },
        ...numberColumns(['days'], figures.days),
        ...numberColumns(['atm_vol'], (value) => figures.vol(value, 2)),
      ],
      rows: slices.map(({ expiry, fit }) => [expiry, fit.days, fit.atmVol]),
    }),
  };
}
