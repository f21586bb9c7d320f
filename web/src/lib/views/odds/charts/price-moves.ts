import type { ExpectedStep } from '@umwelt/core';
import type { Data, Layout, Shape } from 'plotly.js';
import { figures, shortDay } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, MONO, type Figure } from '$lib/charts/figure';

/** Prices of a span of time. */
export interface Bar {
  open: number;
  high: number;
  low: number;
  close: number;
}

/** A bar of a session. */
export interface Candle extends Bar {
  day: string;
}

export interface PriceMovesInput {
  /** Sessions up to now, ascending. */
  candles: readonly Candle[];
  /** Days of the sessions ahead, ascending. */
  ahead: readonly string[];
  /** The price in view, and its day. */
  now: { day: string; price: number };
  /** One deviation ahead by session, as a share of the price, beginning with nothing now. */
  cone: readonly number[];
  steps: readonly ExpectedStep[];
  /** Levels of the expiry that is chosen; null without a move. */
  chosen: { expiry: string; move: number; color: string } | null;
  events: readonly { day: string; title: string }[];
  decimals: number;
  tokens: Tokens;
}

const CANDLE = 0.62;
const priceLayout = (tokens: Tokens): Partial<Layout> => ({
  ...baseLayout(tokens),
  margin: { l: 46, r: 10, t: 6, b: 22 },
  barmode: 'overlay',
});

/** Days that are written under the axis, at most. */
const MOST_TICKS = 8;

const alpha = (color: string, share: number) =>
  `${color}${Math.round(255 * share)
    .toString(16)
    .padStart(2, '0')}`;

/**
 * The price with what it was expected to move by, step after step, and with the cone of one and two deviations ahead, drawn
 * around the price. Sessions follow one another without the days between them.
 */
export function priceMovesFigure(input: PriceMovesInput): Figure {
  const { candles, ahead, now, cone, steps, chosen, events, decimals, tokens } = input;
  const days = [...candles.map(({ day }) => day).filter((day) => day < now.day), now.day, ...ahead];
  const at = new Map(days.map((day, i) => [day, i]));
  /** Where a day stands, also one that is no session: with the next. */
  const placeOf = (day: string) => at.get(day) ?? days.findIndex((one) => one >= day);
  const today = at.get(now.day)!;
  const drawn = candles.filter(({ day }) => at.has(day));
  const drawnAt = drawn.map((candle) => ({ ...candle, at: at.get(candle.day)!, name: shortDay(candle.day) }));
  const seen = steps.filter(({ from }) => at.has(from));
  const isBreach = ({ outcome }: ExpectedStep) => outcome === 'over' || outcome === 'under';
  const edges = (wanted: (step: ExpectedStep) => boolean, color: string, width: number): Data => {
    const points = seen.filter(wanted).flatMap(({ from, to, price, move }) => {
      const [x0, x1] = [placeOf(from), placeOf(to) < 0 ? days.length - 1 : placeOf(to)];
      return [1, -1].flatMap((way) => [
        { x: x0, y: price + way * move },
        { x: x1, y: price + way * move },
        { x: null, y: null },
      ]);
    });
    return line(points, color, width);
  };
  const coneAt = (times: number) => cone.map((share, i) => ({ x: today + i, y: now.price * (1 + times * share) }));
  const band = (times: number, share: number): Data[] => [
    { ...line(coneAt(-times), alpha(tokens.implied, 0.45), 0.8), hoverinfo: 'skip' } as Data,
    {
      ...line(coneAt(times), alpha(tokens.implied, 0.45), 0.8),
      fill: 'tonexty',
      fillcolor: alpha(tokens.implied, share),
      hovertemplate: `${times} deviation${times > 1 ? 's' : ''} over: %{y:.${decimals}f}<extra></extra>`,
    } as Data,
  ];
  const breaches = seen.filter(isBreach);
  const marks: Data = {
    type: 'scatter',
    mode: 'markers',
    x: breaches.map(({ to }) => placeOf(to)),
    y: breaches.map(({ close }) => close),
    marker: { symbol: 'diamond', size: 8, color: tokens.loss },
    customdata: breaches.map(({ from, to, times, move }) => [
      `${shortDay(from)} to ${shortDay(to)}`,
      figures.signed(times, 2),
      figures.plusMinus(move, decimals),
    ]),
    hovertemplate: '%{customdata[0]}<br>%{customdata[1]} of its move %{customdata[2]}<extra></extra>',
  } as Data;
  const shapes: Partial<Shape>[] = [
    ...seen.map(({ from, to, price, move }): Partial<Shape> => ({
      type: 'rect',
      x0: placeOf(from),
      x1: placeOf(to) < 0 ? days.length - 1 : placeOf(to),
      y0: price - move,
      y1: price + move,
      fillcolor: alpha(tokens.gain, 0.09),
      line: { width: 0 },
      layer: 'below',
    })),
    { type: 'line', x0: today, x1: today, yref: 'paper', y0: 0, y1: 1, line: { color: tokens.focus, width: 1.2 } },
  ];
  const annotations: Layout['annotations'] = [];
  const chosenAt = chosen ? placeOf(chosen.expiry) : -1;
  if (chosen && chosenAt >= 0) {
    const levels = [now.price - chosen.move, now.price + chosen.move];
    shapes.push({
      type: 'line',
      x0: chosenAt,
      x1: chosenAt,
      y0: levels[0]!,
      y1: levels[1]!,
      line: { color: chosen.color, width: 3 },
    });
    for (const [i, level] of levels.entries()) {
      annotations.push({
        x: chosenAt,
        y: level,
        text: figures.fixed(level, decimals),
        showarrow: false,
        yanchor: i === 0 ? 'top' : 'bottom',
        font: { family: MONO, size: 11, color: tokens.ink },
      } as Layout['annotations'][number]);
    }
  }
  for (const { day, title } of events) {
    const x = placeOf(day);
    if (x < 0) continue;
    annotations.push({
      x,
      yref: 'paper',
      y: 1,
      text: '◆',
      hovertext: `${title}, ${shortDay(day)}`,
      showarrow: false,
      yanchor: 'top',
      font: { size: 10, color: tokens.loss },
    } as Layout['annotations'][number]);
  }
  const ticks = ticksOf(days);
  const values = [
    ...drawn.flatMap(({ high, low }) => [high, low]),
    ...seen.flatMap(({ price, move }) => [price - move, price + move]),
    ...(chosen ? [now.price - 1.15 * chosen.move, now.price + 1.15 * chosen.move] : []),
  ].filter(Number.isFinite);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const pad = 0.05 * (high - low || 1);
  return {
    data: [
      ...band(2, 0.08),
      ...band(1, 0.14),
      ...candleTraces(drawnAt, tokens),
      edges((step) => !isBreach(step), tokens.gain, 1.3),
      edges(isBreach, tokens.loss, 2),
      marks,
    ],
    layout: {
      ...priceLayout(tokens),
      xaxis: {
        ...baseAxis(tokens),
        range: [-0.7, days.length - 0.3],
        tickvals: ticks.map(({ at: place }) => place),
        ticktext: ticks.map(({ text }) => text),
        showgrid: false,
      },
      yaxis: { ...baseAxis(tokens), range: [low - pad, high + pad], tickformat: '~f' },
      shapes: shapes as Layout['shapes'],
      annotations,
    },
    table: () => ({
      columns: [
        { name: 'from', type: 'day' },
        { name: 'to', type: 'day' },
        { name: 'expiry', type: 'day' },
        ...numberColumns(['price', 'move', 'low', 'high', 'close'], (value) => figures.fixed(value, decimals)),
        ...numberColumns(['times'], (value) => figures.signed(value, 2)),
        { name: 'outcome', type: 'text' },
      ],
      rows: steps.map(({ from, to, expiry, price, move, close, times, outcome }) => [
        ...[from, to, expiry, price, move, price - move, price + move, close, times, outcome],
      ]),
    }),
  };
}

function line(points: readonly { x: number | null; y: number | null }[], color: string, width: number): Data {
  return {
    type: 'scatter',
    mode: 'lines',
    x: points.map(({ x }) => x),
    y: points.map(({ y }) => y),
    line: { color, width },
    hoverinfo: 'skip',
    connectgaps: false,
  } as Data;
}

/** The first session of each month, or of weeks where there are few. */
function ticksOf(days: readonly string[]): { at: number; text: string }[] {
  const months = [...days.keys()].filter((i) => i > 0 && days[i]!.slice(0, 7) !== days[i - 1]!.slice(0, 7));
  const places = months.length >= 3 ? months : [...days.keys()].filter((i) => i % 5 === 0);
  const every = Math.ceil(places.length / MOST_TICKS);
  return places.filter((_, i) => i % every === 0).map((i) => ({ at: i, text: shortDay(days[i]!) }));
}

/** Bars as candles: wicks from low to high, hollow bodies where the price rose. */
function candleTraces(candles: readonly (Bar & { at: number; name: string })[], tokens: Tokens): Data[] {
  const bodies = (isUp: boolean): Data => {
    const those = candles.filter(({ open, close }) => close >= open === isUp);
    return {
      type: 'bar',
      x: those.map(({ at }) => at),
      base: those.map(({ open, close }) => Math.min(open, close)),
      y: those.map(({ open, close }) => Math.max(Math.abs(close - open), 1e-9)),
      width: CANDLE,
      marker: { color: isUp ? tokens.panel : tokens.ink, line: { color: tokens.ink, width: 0.8 } },
      customdata: those.map(({ name, open, high, low, close }) => [name, open, high, low, close]),
      hovertemplate:
        '%{customdata[0]}<br>open %{customdata[1]}, high %{customdata[2]}, low %{customdata[3]}, close %{customdata[4]}<extra></extra>',
    } as Data;
  };
  // Plotly draws lines over bars: wicks end at the bodies, so that hollow bodies stay hollow.
  const wicks = candles.flatMap(({ at, open, high, low, close }) => [
    { x: at, y: low },
    { x: at, y: Math.min(open, close) },
    { x: null, y: null },
    { x: at, y: Math.max(open, close) },
    { x: at, y: high },
    { x: null, y: null },
  ]);
  return [line(wicks, tokens.ink, 0.9), bodies(true), bodies(false)];
}

/** Prices inside a session against what the close before expected of it. */
export function sessionMovesFigure({
  bars,
  base,
  move,
  decimals,
  tokens,
}: {
  /** A quarter of an hour each, in order of time. */
  bars: readonly (Bar & { time: string })[];
  /** The close before. */
  base: number;
  move: number;
  decimals: number;
  tokens: Tokens;
}): Figure {
  const values = [...bars.flatMap(({ high, low }) => [high, low]), base - move, base + move].filter(Number.isFinite);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const pad = 0.06 * (high - low || 1);
  const last = bars.length - 1;
  const level = (y: number, color: string, dash: 'solid' | 'dot', name: string): Data =>
    ({
      type: 'scatter',
      mode: 'lines',
      x: [-0.5, last + 0.5],
      y: [y, y],
      line: { color, width: 1.3, dash },
      hovertemplate: `${name} ${figures.fixed(y, decimals)}<extra></extra>`,
    }) as Data;
  const every = Math.max(1, Math.ceil(bars.length / MOST_TICKS));
  const ticks = [...bars.keys()].filter((i) => i % every === 0);
  return {
    data: [
      level(base + move, tokens.gain, 'solid', 'one move over'),
      level(base - move, tokens.gain, 'solid', 'one move under'),
      level(base, tokens.faint, 'dot', 'close before'),
      ...candleTraces(
        bars.map((bar, at) => ({ ...bar, at, name: bar.time })),
        tokens,
      ),
    ],
    layout: {
      ...priceLayout(tokens),
      xaxis: {
        ...baseAxis(tokens),
        range: [-0.7, last + 0.7],
        tickvals: ticks,
        ticktext: ticks.map((i) => bars[i]!.time),
        showgrid: false,
      },
      yaxis: { ...baseAxis(tokens), range: [low - pad, high + pad], tickformat: '~f' },
    },
    table: () => ({
      columns: [
        { name: 'time', type: 'text' },
        ...numberColumns(['open', 'high', 'low', 'close'], (value) => figures.fixed(value, decimals)),
      ],
      rows: bars.map((bar) => [bar.time, bar.open, bar.high, bar.low, bar.close]),
    }),
  };
}
