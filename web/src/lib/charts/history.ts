import { sessionClose, type Calendar } from '@umwelt/core';
import type { Data, Layout, Shape } from 'plotly.js';
import { figures } from '$lib/formats';
import type { HistoryRow, MarketEvent } from '$lib/state/api';
import type { Estimator, Window } from '$lib/state/context';
import { valueOf } from '$lib/state/measures';
import type { Tokens } from '$lib/state/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, HeldRange, MONO, type Figure } from './figure';

export interface HistoryInput {
  rows: readonly HistoryRow[];
  events: readonly MarketEvent[];
  calendar: Calendar;
  /** Moment in view: nothing later is drawn. */
  instant: number;
  /** Price at the moment, for a session that is not over. */
  price: number;
  estimator: Estimator;
  window: Window;
  allBars: boolean;
  tokens: Tokens;
  ranges: { price: HeldRange; vol: HeldRange; gap: HeldRange };
  symbol: string;
}

/** One session as History shows it. */
export interface HistoryPoint {
  date: string;
  /** Closing price; of the session in view the price at the moment. */
  close: number;
  iv30: number;
  /** Historical vol whose last bar is the one of this session; NaN while it is not over. */
  hv: number;
  /** iv30 less the historical vol known at the moment: of the bars up to the session before. */
  gap: number;
}

export const ESTIMATOR_NAMES = { yz: 'Yang–Zhang', close: 'close to close' } as const;

/** Names of the historical vols of a choice; the first is the one that the gap is taken against. */
export function seriesOf(estimator: Estimator, window: Window): string[] {
  return (estimator === 'both' ? ['yz', 'close'] : [estimator]).map((name) => `hv${window}.${name}`);
}

/** The sessions up to a moment, with the gap against what was known then. */
export function historyPoints(
  rows: readonly HistoryRow[],
  calendar: Calendar,
  instant: number,
  series: string,
  price = NaN,
): HistoryPoint[] {
  const points: HistoryPoint[] = [];
  let known = NaN;
  for (const row of rows) {
    const isMeasured = row.asof !== null && Date.parse(row.asof) <= instant;
    const isOver = row.close !== null && sessionClose(calendar, row.date) <= instant;
    if (!isMeasured && !isOver) continue;
    const iv30 = isMeasured ? valueOf(row, 'iv30') : NaN;
    const hv = isOver ? valueOf(row, series) : NaN;
    points.push({ date: row.date, close: isOver ? valueOf(row, 'close') : NaN, iv30, hv, gap: iv30 - known });
    if (isOver) known = hv;
  }
  const last = points.at(-1);
  if (last && Number.isNaN(last.close)) last.close = price;
  return points;
}

/** First date to draw: of the bars, or a little before the implied vols. */
function firstDate(rows: readonly HistoryRow[], allBars: boolean): string {
  const MARGIN = 3;
  const measured = rows.findIndex((row) => row.asof !== null);
  return rows[allBars || measured < 0 ? 0 : Math.max(0, measured - MARGIN)]?.date ?? '';
}

/** Price above, implied against historical vols, and their gap below, on one axis of time. */
export function historyFigure(input: HistoryInput): Figure {
  const { rows, events, calendar, instant, estimator, window, allBars, tokens, ranges, symbol } = input;
  const names = seriesOf(estimator, window);
  const from = firstDate(rows, allBars);
  const all = historyPoints(rows, calendar, instant, names[0]!, input.price).filter((point) => point.date >= from);
  const second = names[1] ? historyPoints(rows, calendar, instant, names[1]).filter((point) => point.date >= from) : [];
  const x = all.map((point) => point.date);
  const vols = (pick: (point: HistoryPoint) => number, points = all) => points.map((point) => 100 * pick(point));
  const gaps = vols((point) => point.gap);
  const line = (y: number[], name: string, color: string, dash: 'solid' | 'dash' | 'dot', yaxis: 'y' | 'y2'): Data => ({
    type: 'scatter',
    mode: 'lines',
    x,
    y: y as never,
    name,
    yaxis,
    line: { color, width: 1.8, dash },
    hovertemplate: `%{y:.${yaxis === 'y' ? 2 : 1}f}`,
  });
  const nameOf = (series: string) =>
    `${series.endsWith('yz') ? ESTIMATOR_NAMES.yz : ESTIMATOR_NAMES.close} ${window} d, %`;
  const data: Data[] = [
    line(
      all.map((point) => point.close),
      'close',
      tokens.ink,
      'solid',
      'y',
    ),
    line(
      vols((point) => point.iv30),
      'iv30, %',
      tokens.implied,
      'solid',
      'y2',
    ),
    line(
      vols((point) => point.hv),
      nameOf(names[0]!),
      tokens.realized,
      'dash',
      'y2',
    ),
    ...(names[1]
      ? [
          line(
            vols((point) => point.hv, second),
            nameOf(names[1]),
            tokens.realized,
            'dot',
            'y2',
          ),
        ]
      : []),
    {
      type: 'bar',
      x,
      y: gaps as never,
      name: 'gap, points',
      yaxis: 'y3',
      marker: {
        color: gaps.map((gap) => (gap >= 0 ? tokens.gain : tokens.loss)),
        pattern: { shape: gaps.map((gap) => (gap >= 0 ? '' : '/')), fgcolor: tokens.panel, size: 4, solidity: 0.4 },
      },
      hovertemplate: '%{y:+.1f}',
    } as Data,
    eventMarks(events, all, tokens),
  ];
  const key = `${symbol} ${allBars} ${estimator} ${window}`;
  const later = historyPoints(rows, calendar, Infinity, names[0]!).filter((point) => point.date >= from);
  const axis = baseAxis(tokens);
  const title = (text: string) => ({ text, font: { family: MONO, size: 11, color: tokens.soft }, standoff: 6 });
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      hovermode: 'x unified',
      margin: { l: 52, r: 12, t: 8, b: 36 },
      bargap: 0.25,
      // Held from the first picture on for the whole of what is stored, so that nothing jumps while playing.
      xaxis: {
        ...axis,
        type: 'date',
        range: [from, dayAfter(rows.at(-1)?.date ?? from)],
        anchor: 'y3',
        hoverformat: '%a %-d %b %Y',
        // Weekends take no room.
        rangebreaks: [{ bounds: ['sat', 'mon'] }],
        tickformat: '%-d %b\n%Y',
      },
      yaxis: {
        ...axis,
        domain: [0.66, 1],
        range: ranges.price.of(
          key,
          later.map((point) => point.close),
        ),
        title: title('price'),
      },
      yaxis2: {
        ...axis,
        domain: [0.25, 0.63],
        range: ranges.vol.of(key, volValues(later, rows, names, from)),
        title: title('vol %'),
        tickformat: '.0f',
      } as Layout['yaxis'],
      yaxis3: {
        ...axis,
        domain: [0, 0.22],
        range: ranges.gap.of(key, [0, ...later.map((point) => 100 * point.gap)]),
        title: title('gap'),
        zeroline: true,
        zerolinecolor: tokens.soft,
        tickformat: '.0f',
      } as Layout['yaxis'],
      shapes: [
        {
          type: 'line',
          x0: x.at(-1),
          x1: x.at(-1),
          yref: 'paper',
          y0: 0,
          y1: 1,
          line: { color: tokens.focus, width: 1 },
        } as Shape,
      ],
    },
    table: () => ({
      columns: [
        { name: 'date', type: 'day' },
        ...numberColumns(['close'], (value) => figures.fixed(value, 2)),
        ...numberColumns(['iv30', ...names], (value) => figures.vol(value, 2)),
        ...numberColumns(['gap'], (value) => figures.volChange(value, 2)),
      ],
      rows: all.map((point, i) => [
        ...[point.date, point.close, point.iv30, point.hv],
        ...(names[1] ? [second[i]!.hv] : []),
        point.gap,
      ]),
    }),
  };
}

function volValues(
  points: readonly HistoryPoint[],
  rows: readonly HistoryRow[],
  names: readonly string[],
  from: string,
): number[] {
  const historical = rows
    .filter((row) => row.date >= from)
    .flatMap((row) => names.map((name) => 100 * valueOf(row, name)));
  return [...points.map((point) => 100 * point.iv30), ...historical];
}

function dayAfter(day: string): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + 86_400_000).toISOString().slice(0, 10);
}

function eventMarks(events: readonly MarketEvent[], points: readonly HistoryPoint[], tokens: Tokens): Data {
  const closeOn = new Map(points.map((point) => [point.date, point.close]));
  const shown = events.filter(({ date }) => Number.isFinite(closeOn.get(date) ?? NaN));
  return {
    type: 'scatter',
    mode: 'markers',
    name: '',
    x: shown.map(({ date }) => date),
    y: shown.map(({ date }) => closeOn.get(date)!),
    text: shown.map(({ title, amount }) => (amount === null ? title : `${title} ${figures.fixed(amount, 2)}`)),
    hovertemplate: '%{text}<extra></extra>',
    marker: { symbol: 'diamond', size: 9, color: tokens.loss, line: { color: tokens.panel, width: 1 } },
  };
}
