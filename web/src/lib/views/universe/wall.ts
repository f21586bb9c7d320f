import { CONE_SHARES, quantileOf } from '@umwelt/core';
import type { z } from 'zod';
import { linePath } from '$lib/charts/line-path';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';
import { type Wall } from './params';
import type { DataTable } from '$lib/tables/data-table';
import { askScreen } from './results';

export type Hung = Exclude<Wall, 'none' | 'peers'>;

/** A line of a small chart: where its points stand along it, and their values; NaN breaks it. */
export interface SmallLine {
  x: readonly number[];
  y: readonly number[];
  color: 'implied' | 'realized' | 'ink' | 'soft';
  isDashed?: boolean;
}

/** What lies between two lines; NaN breaks it. */
export interface SmallBand {
  x: readonly number[];
  low: readonly number[];
  high: readonly number[];
  color: 'implied' | 'realized';
}

/** A small chart of one underlying. */
export interface SmallChart {
  lines: readonly SmallLine[];
  bands: readonly SmallBand[];
  /** Columns at the foot, on a scale of their own. */
  columns?: readonly number[];
  /** What it is of, in a few words. */
  words?: string;
}

/** Days of the vols of a term structure. */
export const TERM_DAYS = [7, 30, 60, 90, 180, 360] as const;
const SESSIONS = 120;

const numbers = (values: readonly (number | null)[]) => values.map((value) => value ?? NaN);
const indices = (values: readonly unknown[]) => [...values.keys()];

/** The move that was expected from a session to the end of the first expiry then. */
export interface ExpectedStep {
  /** The session at which the expiry became the first, and the last one before the next did. */
  from: number;
  to: number;
  low: number;
  high: number;
}

/**
 * Steps of expected moves along the past: from each session at which another expiry became the first one, its straddle either
 * side of the price.
 *
 * @param front days to the first expiry by session
 */
export function expectedSteps(
  price: readonly number[],
  move: readonly number[],
  front: readonly number[],
): ExpectedStep[] {
  const steps: ExpectedStep[] = [];
  price.forEach((value, i) => {
    // Days only grow when an expiry has gone; a session that knows none belongs to the step that runs.
    const isNext = front[i]! > (front[i - 1] ?? NaN) || steps.length === 0;
    const last = steps.at(-1);
    if (isNext && Number.isFinite(value) && Number.isFinite(move[i])) {
      steps.push({ from: i, to: i, low: value - move[i]!, high: value + move[i]! });
    } else if (last) last.to = i;
  });
  return steps;
}

/** A step as a band with corners. */
function bandOf({ from, to, low, high }: ExpectedStep): SmallBand {
  return { x: [from, to + 1], low: [low, low], high: [high, high], color: 'implied' };
}

async function hungSeries(
  asof: string | null,
  symbols: string[],
  series: string[],
  chartOf: (series: number[][]) => SmallChart,
): Promise<Map<string, SmallChart>> {
  const { rows } = await askScreen(asof, { symbols, series, sessions: SESSIONS });
  return new Map(rows.map((row) => [row.symbol, chartOf(row.series.map(numbers))]));
}

const SHARES: readonly number[] = CONE_SHARES;
/** Shares of the bands of a cone. */
const CONE_BANDS = [
  [0, 1],
  [0.25, 0.75],
] as const;

/** The chart of a cone: windows and times ahead on a logarithmic axis. */
export function coneChart(
  { windows, sessions }: Pick<z.infer<typeof schemas.ConesResponse>, 'windows' | 'sessions'>,
  cone: z.infer<typeof schemas.ConesResponse>['cones'][number],
): SmallChart {
  const x = windows.map(Math.log);
  const at = (share: number) => cone.quantiles.map((values) => values[SHARES.indexOf(share)] ?? NaN);
  return {
    bands: CONE_BANDS.map(([low, high]) => ({ x, low: at(low), high: at(high), color: 'realized' })),
    lines: [
      { x, y: numbers(cone.now), color: 'realized', isDashed: true },
      { x: sessions.map(Math.log), y: numbers(cone.term), color: 'implied' },
    ],
  };
}

/** Loads the charts of some underlyings. */
export async function loadWall(
  wall: Hung,
  asof: string | null,
  symbols: string[],
  hasVolume: boolean,
): Promise<Map<string, SmallChart>> {
  const at = asof ? { asof } : {};
  switch (wall) {
    case 'vols':
      return hungSeries(asof, symbols, ['iv30', 'hv20.yz', ...(hasVolume ? ['volume'] : [])], ([iv, hv, volume]) => ({
        lines: [
          { x: indices(iv!), y: iv!, color: 'implied' },
          { x: indices(hv!), y: hv!, color: 'realized', isDashed: true },
        ],
        bands: [],
        ...(volume ? { columns: volume } : {}),
      }));
    case 'price':
      return hungSeries(asof, symbols, ['price', 'move', 'front'], ([price, move, front]) => ({
        lines: [{ x: indices(price!), y: price!, color: 'ink' }],
        bands: expectedSteps(price!, move!, front!).map(bandOf),
      }));
    case 'term': {
      const { rows } = await askScreen(asof, { symbols, columns: TERM_DAYS.map((days) => `iv${days}`) });
      const x = TERM_DAYS.map(Math.log);
      return new Map(
        rows.map(({ symbol, columns }) => [
          symbol,
          { lines: [{ x, y: numbers(columns), color: 'implied' as const }], bands: [] },
        ]),
      );
    }
    case 'skew': {
      const { deviations: x, skews } = await call('POST /skews', { body: { symbols, ...at } });
      return new Map(
        skews.map(({ symbol, vols, expiry, borrowedFrom }) => [
          symbol,
          {
            lines: [{ x, y: numbers(vols), color: 'implied' as const, isDashed: borrowedFrom !== null }],
            bands: [],
            words: expiry,
          },
        ]),
      );
    }
    case 'cone': {
      const { cones, ...axes } = await call('POST /cones', { body: { symbols, ...at } });
      return new Map(cones.map((cone) => [cone.symbol, coneChart(axes, cone)]));
    }
  }
}

type Drawn = Pick<SmallChart, 'lines' | 'bands'>;

/** From where to where values of a chart go; null where there are none. */
export function rangeOf(charts: readonly Drawn[]): [low: number, high: number] | null {
  let low = Infinity;
  let high = -Infinity;
  const reach = (values: readonly number[]) => {
    for (const value of values) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
  };
  for (const { lines, bands } of charts) {
    for (const { y } of lines) reach(y);
    for (const band of bands) {
      reach(band.low);
      reach(band.high);
    }
  }
  return low <= high ? [low, high] : null;
}

/** Share of the values at either end that a shared axis leaves out: one name must not flatten all others. */
export const LEFT_OUT = 0.01;

/** From where to where nearly all values of some charts go; null where there are none. */
export function sharedRange(charts: readonly Drawn[]): [low: number, high: number] | null {
  const values = charts.flatMap(({ lines, bands }) => [
    ...lines.flatMap(({ y }) => y),
    ...bands.flatMap(({ low, high }) => [...low, ...high]),
  ]);
  const sorted = Float64Array.from(values.filter(Number.isFinite)).sort();
  if (sorted.length === 0) return null;
  return [quantileOf(sorted, LEFT_OUT), quantileOf(sorted, 1 - LEFT_OUT)];
}

/** From where to where a chart goes along; null where there is nothing. */
export function extentOf({ lines, bands }: Drawn): [first: number, last: number] | null {
  const xs = [...lines, ...bands].flatMap(({ x }) => x);
  return xs.length > 0 ? [Math.min(...xs), Math.max(...xs)] : null;
}

const logOf = (values: readonly number[]) => values.map((value) => (value > 0 ? Math.log(value) : NaN));

/** A chart on a logarithmic scale, on which vols of very different sizes can share an axis; what is not positive is left out. */
export function logarithmic(chart: SmallChart): SmallChart {
  return {
    ...chart,
    lines: chart.lines.map((line) => ({ ...line, y: logOf(line.y) })),
    bands: chart.bands.map((band) => ({ ...band, low: logOf(band.low), high: logOf(band.high) })),
  };
}

/** Least height of a chart of its own, as a share of its middle: a line that hardly moves is to look so. */
const LEAST_SPAN = 0.1;

/** A range that is no narrower than a tenth of its middle. */
export function widened([low, high]: readonly [low: number, high: number]): [low: number, high: number] {
  const middle = 0.5 * (low + high);
  const half = Math.max(0.5 * (high - low), 0.5 * LEAST_SPAN * Math.abs(middle));
  return [middle - half, middle + half];
}

/** Where a chart lies: what it goes over along and upwards, and the box that it is drawn in. */
export interface SmallBox {
  extent: readonly [first: number, last: number];
  range: readonly [low: number, high: number];
  width: number;
  height: number;
}

const across = ({ extent: [first, last], width }: SmallBox, x: readonly number[]) =>
  x.map((value) => (last > first ? (width * (value - first)) / (last - first) : width / 2));

/** A line as the path of an SVG; it is empty where there is nothing. */
export function smallPath({ x, y }: Pick<SmallLine, 'x' | 'y'>, box: SmallBox): string {
  return linePath(y, across(box, x), 0, box.height, box.range);
}

/** A band as the path of an SVG: where either side is missing it is left out. */
export function bandPath({ x, low, high }: SmallBand, box: SmallBox): string {
  const at = [...x.keys()].filter((i) => Number.isFinite(low[i]) && Number.isFinite(high[i]));
  if (at.length < 2) return '';
  const xs = across(box, x);
  const [bottom, top] = box.range;
  const up = (value: number) => box.height - ((value - bottom) / (top - bottom || 1)) * box.height;
  const point = (i: number, value: number) => `${xs[i]!.toFixed(1)} ${up(value).toFixed(1)}`;
  return `M${[...at.map((i) => point(i, high[i]!)), ...at.toReversed().map((i) => point(i, low[i]!))].join('L')}Z`;
}

/** Columns at the foot as the path of an SVG, the highest a third of the box. */
export function columnsPath(columns: readonly number[], { width, height }: { width: number; height: number }): string {
  const most = Math.max(...columns.filter(Number.isFinite));
  if (!(most > 0)) return '';
  const step = width / columns.length;
  return columns
    .map((value, i) => {
      if (!(value > 0)) return '';
      const tall = (value / most) * (height / 3);
      return `M${(i * step).toFixed(1)} ${height}h${(0.8 * step).toFixed(1)}v${(-tall).toFixed(1)}h${(-0.8 * step).toFixed(1)}z`;
    })
    .join('');
}

/** The lines and bands of charts as a file has them: a row per point. */
export function wallTable(charts: readonly { symbol: string; chart: SmallChart }[]): DataTable {
  const rows = charts.flatMap(({ symbol, chart }) => [
    ...chart.lines.flatMap(({ x, y, color }, line) =>
      x.map((at, i) => [symbol, `line ${line + 1}, ${color}`, at, y[i]!, null]),
    ),
    ...chart.bands.flatMap(({ x, low, high, color }, band) =>
      x.map((at, i) => [symbol, `band ${band + 1}, ${color}`, at, low[i]!, high[i]!]),
    ),
    ...(chart.columns ?? []).map((value, i) => [symbol, 'columns', i, value, null]),
  ]);
  return {
    columns: [
      { name: 'symbol', type: 'text' },
      { name: 'what', type: 'text' },
      { name: 'x', type: 'number' },
      { name: 'value', type: 'number' },
      { name: 'upper', type: 'number' },
    ],
    rows,
  };
}
