import { type GridQuantity, expiryName, type ExpiryId, type Side } from '@umwelt/core';
import type { Data } from 'plotly.js';
import { figures, shortExpiry } from '$lib/formats';
import { type Axis } from '../params';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import { axisFormat } from './curve-line';
import { betweenColors, channels, depthColor } from '$lib/charts/depth';
import { baseAxis, baseLayout, MONO, type Figure, type HeldRange } from '$lib/charts/figure';
import type { Moving } from '$lib/charts/moving';
import { HALF, roundTicks, tickDecimals, type Body, type BodyLine, type BoxAxes } from '$lib/charts/solid';

/** How a quantity is called, scaled and written. */
export const QUANTITIES: Record<GridQuantity, { name: string; unit: string; scale: number; decimals: number | null }> =
  {
    vol: { name: 'vol', unit: '%', scale: 100, decimals: 2 },
    variance: { name: 'total variance', unit: '', scale: 1, decimals: 5 },
    density: { name: 'density', unit: 'per unit of ln', scale: 1, decimals: 3 },
    cumulative: { name: 'odds under', unit: '%', scale: 100, decimals: 1 },
    price: { name: 'price', unit: '', scale: 1, decimals: 2 },
    delta: { name: 'delta', unit: '', scale: 1, decimals: 3 },
    gamma: { name: 'gamma', unit: '', scale: 1, decimals: null },
    theta: { name: 'theta', unit: 'a day', scale: 1, decimals: 3 },
    vega: { name: 'vega', unit: 'a point', scale: 1, decimals: 3 },
    rho: { name: 'rho', unit: 'a point', scale: 1, decimals: 3 },
    vanna: { name: 'vanna', unit: '', scale: 1, decimals: null },
    volga: { name: 'volga', unit: '', scale: 1, decimals: null },
    charm: { name: 'charm', unit: 'a day', scale: 1, decimals: null },
  };

/** Whether calls and puts differ in a quantity. */
export function hasSides(quantity: GridQuantity): boolean {
  return ['price', 'delta', 'theta', 'rho', 'charm'].includes(quantity);
}

/** A value of a map as it is read. */
export function quantityText(quantity: GridQuantity, value: number, isDifference = false): string {
  if (!Number.isFinite(value)) return '–';
  const { scale, decimals } = QUANTITIES[quantity];
  const shown = scale * value;
  const digits = decimals ?? Math.max(0, Math.min(9, 2 - Math.floor(Math.log10(Math.abs(shown) || 1))));
  return isDifference ? figures.signed(shown, digits) : figures.fixed(shown, digits);
}

/** From where to where the axes of a map go. */
export interface MapReach {
  positions: readonly [from: number, to: number];
  days: readonly [from: number, to: number];
}

export interface MapInput {
  quantity: GridQuantity;
  axis: Axis;
  /** What stands under the axis. */
  axisTitle: string;
  isDifference: boolean;
  positions: readonly number[];
  /** Of the rows. */
  days: readonly number[];
  rows: readonly Float64Array[];
  expiries: readonly (ExpiryId & { days: number; forward: number })[];
  lit: { at: number; days: number } | null;
  /** The contract that a place stands for. */
  contractAt: (position: number, days: number) => [name: string, strike: number, side: Side];
  /** Range of the axes during playback; otherwise that of what is drawn. */
  reach: MapReach | null;
  /** Of the colours, which hold still while it plays. */
  range: HeldRange;
  key: string;
  tokens: Tokens;
}

const positionsOf = ({ positions, reach }: Pick<MapInput, 'positions' | 'reach'>) =>
  reach?.positions ?? ([positions[0]!, positions.at(-1)!] as const);

const daysOf = ({ days, reach }: Pick<MapInput, 'days' | 'reach'>) =>
  reach?.days ?? ([days[0] ?? 1, days.at(-1) ?? 10] as const);

type ColorScale = [number, string][];

function* valuesOf(rows: MapInput['rows']): Generator<number> {
  for (const row of rows) for (const value of row) if (Number.isFinite(value)) yield value;
}

/** From shallow to deep; and from one side of nothing to the other. */
function scaleOf({ rows, isDifference, tokens, range, key }: MapInput) {
  const [low, high] = range.of(key, valuesOf(rows), 0);
  if (isDifference || (low < 0 && high > 0)) {
    const most = Math.max(-low, high) || 1;
    const colors: ColorScale = [
      [0, tokens.loss],
      [0.5, tokens.panel],
      [1, tokens.gain],
    ];
    return { low: -most, high: most, colors };
  }
  const { depths } = tokens;
  const colors = depths.map((color, i): [number, string] => [i / (depths.length - 1), color]);
  return { low, high, colors };
}

function titled(text: string, color: string): { text: string; font: object } {
  return { text, font: { family: MONO, size: 11, color } };
}

const dayTicks = (days: readonly number[]) => {
  const ticks: number[] = [];
  for (const day of days) if (ticks.length === 0 || day / ticks.at(-1)! >= 1.3) ticks.push(day);
  return ticks;
};

function scaledRows({ rows, quantity }: Pick<MapInput, 'rows' | 'quantity'>): (number | null)[][] {
  const { scale } = QUANTITIES[quantity];
  return rows.map((row) => Array.from(row, (value) => (Number.isFinite(value) ? scale * value : null)));
}

function textsOf({ rows, quantity, isDifference, positions, days, axis }: MapInput): string[][] {
  const { name, unit } = QUANTITIES[quantity];
  return rows.map((row, i) =>
    Array.from(
      row,
      (value, j) =>
        `${axisText(axis, positions[j]!)} · ${figures.days(days[i]!)} days<br>${name} ${quantityText(quantity, value, isDifference)} ${unit}`,
    ),
  );
}

/** A place on an axis as it is read. */
export function axisText(axis: Axis, value: number): string {
  if (axis === 'strike') return figures.fixed(value, value < 1000 ? 2 : 0);
  if (axis === 'forward') return `${figures.fixed(value, 1)} % of the forward`;
  if (axis === 'log') return `ln(K/F) ${figures.fixed(value, 3)}`;
  return axis === 'standardized' ? `${figures.signed(value, 2)} deviations` : `call delta ${figures.fixed(value, 0)} %`;
}

function tableOf({ quantity, positions, days, rows }: MapInput): DataTable {
  return {
    columns: [
      ...numberColumns(['days'], figures.days),
      ...numberColumns(['at'], String),
      ...numberColumns([quantity], (value) => quantityText(quantity, value)),
    ],
    rows: rows.flatMap((row, i) => Array.from(row, (value, j) => [days[i]!, positions[j]!, value])),
  };
}

/** A quantity as colours over strikes and times, with a line at each expiry. Needs Plotly's cartesian bundle. */
export function heatFigure(input: MapInput): Figure {
  const { positions, days, expiries, lit, tokens, quantity, axis, contractAt } = input;
  const { low, high, colors } = scaleOf(input);
  const { scale, name, unit } = QUANTITIES[quantity];
  const ticks = dayTicks(expiries.map((one) => one.days));
  const data: Data[] = [
    {
      type: 'heatmap',
      x: [...positions],
      y: [...days],
      z: scaledRows(input),
      zmin: scale * low,
      zmax: scale * high,
      zsmooth: 'best',
      colorscale: colors,
      customdata: days.map((day) => positions.map((position) => contractAt(position, day))),
      text: textsOf(input),
      hovertemplate: '%{text}<extra></extra>',
      connectgaps: false,
      colorbar: {
        thickness: 10,
        x: 1.01,
        xpad: 4,
        outlinewidth: 0,
        tickfont: { family: MONO, size: 11, color: tokens.soft },
        title: {
          ...titled(
            `${input.isDifference ? `${name}, less the ghost's` : name}${unit ? `, ${unit}` : ''}`,
            tokens.soft,
          ),
          side: 'right',
        },
      },
    } as unknown as Data,
  ];
  if (lit) {
    data.push({
      type: 'scatter',
      mode: 'markers',
      x: [lit.at],
      y: [lit.days],
      marker: { symbol: 'circle-open', size: 11, color: tokens.focus, line: { width: 2.5, color: tokens.focus } },
      hoverinfo: 'skip',
    });
  }
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      // Room for the scale of colours, which would make room for itself otherwise.
      margin: { l: 40, r: 84, t: 10, b: 26 },
      xaxis: {
        ...baseAxis(tokens),
        range: [...positionsOf(input)],
        tickformat: axisFormat(axis),
        showgrid: false,
      },
      yaxis: {
        ...baseAxis(tokens),
        type: 'log',
        range: daysOf(input).map(Math.log10),
        tickvals: ticks,
        ticktext: ticks.map((day) => figures.days(day)),
        showgrid: true,
      },
    },
    table: () => tableOf(input),
  };
}

const SHADES = 128;

/** The shades of a scale, which are mixed once. */
const MIXED = new Map<string, [number, number, number][]>();

function mixed(colors: ColorScale): [number, number, number][] {
  const key = colors.join();
  const known = MIXED.get(key);
  if (known) return known;
  const shades = Array.from({ length: SHADES }, (_, i) => {
    const share = i / (SHADES - 1);
    const above = Math.max(
      1,
      colors.findIndex(([at]) => at >= share),
    );
    const [[from, a], [to, b]] = [colors[above - 1]!, colors[above]!];
    return channels(betweenColors(a, b, (share - from) / (to - from)));
  });
  MIXED.set(key, shades);
  return shades;
}

/** The colour of every value, as red, green and blue. */
function shadesOf({ low, high, colors }: ReturnType<typeof scaleOf>): (value: number) => [number, number, number] {
  const shades = mixed(colors);
  return (value) => {
    const shade = Math.round(((value - low) / (high - low || 1)) * (SHADES - 1));
    return shades[Math.max(0, Math.min(SHADES - 1, shade))]!;
  };
}

/** The colours of a heat map as they move, on the axes that it has. */
export function heatMoving(input: MapInput): Moving {
  const { positions, days, rows } = input;
  const shade = shadesOf(scaleOf(input));
  const pixels = new Uint8ClampedArray(4 * positions.length * rows.length);
  rows.forEach((row, i) =>
    row.forEach((value, j) => {
      if (Number.isFinite(value)) pixels.set([...shade(value), 255], 4 * (i * positions.length + j));
    }),
  );
  return {
    lines: [],
    image: {
      x: [positions[0]!, positions.at(-1)!],
      y: [days[0]!, days.at(-1)!],
      columns: positions.length,
      rows: rows.length,
      pixels,
    },
  };
}

/** Smoothing passes of an edge. */
const SMOOTHINGS = 40;

/** An edge that nowhere lies before another one, and turns gently. */
function smoothed(edge: readonly number[]): number[] {
  let held = [...edge];
  for (let n = 0; n < SMOOTHINGS; n++) {
    const last = held;
    held = edge.map((least, i) =>
      i === 0 || i === edge.length - 1 ? least : Math.max(least, 0.5 * (last[i - 1]! + last[i + 1]!)),
    );
  }
  return held;
}

/**
 * A body without ragged edges: what lies beyond the values of a row falls on its edge, which runs smoothly from one row to
 * the next, a little within them.
 *
 * @param rows NaN where there is no value, which is so before and after those of a row only
 * @returns places and values by row
 */
export function hemmed(
  positions: readonly number[],
  rows: readonly ArrayLike<number>[],
): { x: number[][]; z: number[][] } {
  const ends = rows.map((row) => {
    const held = Array.from(row, Number.isFinite);
    return [held.indexOf(true), held.lastIndexOf(true)] as const;
  });
  // A row without values has no edge that others could follow.
  const isWhole = ends.every(([from]) => from >= 0);
  const starts = isWhole ? smoothed(ends.map(([from]) => from)) : ends.map(([from]) => from);
  const stops = isWhole ? smoothed(ends.map(([, to]) => -to)).map((to) => -to) : ends.map(([, to]) => to);
  const read = (values: ArrayLike<number>, place: number) => {
    const at = Math.floor(place);
    const first = values[at] ?? NaN;
    return place === at ? first : first + (place - at) * (values[at + 1]! - first);
  };
  const within = (i: number, j: number) => Math.max(starts[i]!, Math.min(stops[i]!, j));
  return {
    x: rows.map((_, i) => positions.map((_, j) => read(positions, within(i, j)))),
    z: rows.map((row, i) => positions.map((_, j) => read(row, within(i, j)))),
  };
}

/** A quantity over strikes and times as a body, with its axes and what every point of it says. */
export interface SolidInput {
  body: Body;
  axes: BoxAxes;
  /** The expiries across it. */
  lines: BodyLine[];
  textAt: (point: number) => string;
  contractAt: (point: number) => [name: string, strike: number, side: Side];
  tokens: Tokens;
  table: () => DataTable;
}

const TICKS = 5;
/** Days that went through years and back may be short of themselves by a rounding. */
const SHORT = 1 - 1e-9;
/** Points along the line of an expiry for each place: it is hidden and seen piece by piece. */
const LINE_PIECES = 4;

/** A quantity as a body over strikes and times. */
export function solidOf(input: MapInput, litExpiry: string | null): SolidInput {
  const { positions, days, expiries, tokens, quantity, axisTitle, isDifference } = input;
  const colored = scaleOf(input);
  const { low, high } = colored;
  const shades = shadesOf(colored);
  const { scale, name, unit } = QUANTITIES[quantity];
  const [from, to] = positionsOf(input);
  const [near, far] = daysOf(input).map(Math.log) as [number, number];
  const across = (position: number) => (2 * (position - from)) / (to - from) - 1;
  const along = (day: number) => (far > near ? (2 * (Math.log(day) - near)) / (far - near) - 1 : 0);
  const up = (value: number) => (high > low ? (2 * (value - low)) / (high - low) - 1 : 0);
  const { x: places, z: values } = hemmed(positions, input.rows);
  const [columns, rows] = [positions.length, days.length];
  const x = new Float64Array(columns * rows);
  const y = new Float64Array(columns * rows);
  const z = new Float64Array(columns * rows);
  const colors = new Uint8ClampedArray(3 * columns * rows);
  for (let i = 0; i < rows; i++) {
    for (let j = 0; j < columns; j++) {
      const at = i * columns + j;
      const value = values[i]![j]!;
      x[at] = HALF.x * across(places[i]![j]!);
      y[at] = HALF.y * along(days[i]!);
      z[at] = HALF.z * up(value);
      if (Number.isFinite(value)) colors.set(shades(value), 3 * at);
    }
  }
  const atPositions = roundTicks(from, to, TICKS);
  const heights = roundTicks(scale * low, scale * high, TICKS);
  const [positionDecimals, heightDecimals] = [tickDecimals(atPositions), tickDecimals(heights)];
  const listed = expiries.filter(({ days: day }) => day >= SHORT * days[0]! && SHORT * day <= days.at(-1)!);
  const lines = listed.map((one): BodyLine => {
    const after = Math.max(
      1,
      days.findIndex((day) => day >= SHORT * one.days),
    );
    const share =
      rows > 1 ? (Math.log(one.days) - Math.log(days[after - 1]!)) / Math.log(days[after]! / days[after - 1]!) : 0;
    const point = (column: number) => {
      const [left, part] = [Math.floor(column), column % 1];
      const of = (values: Float64Array) => {
        const at = (row: number) => {
          const first = values[row * columns + left]!;
          return part === 0 ? first : first + part * (values[row * columns + left + 1]! - first);
        };
        return rows > 1 ? at(after - 1) + share * (at(after) - at(after - 1)) : at(0);
      };
      return { x: of(x), y: HALF.y * along(one.days), z: of(z) };
    };
    const isLit = expiryName(one) === litExpiry;
    return {
      points: Array.from({ length: (columns - 1) * LINE_PIECES + 1 }, (_, i) => point(i / LINE_PIECES)),
      color: isLit ? tokens.focus : tokens.ink,
      width: isLit ? 2 : 0.7,
    };
  });
  return {
    body: { columns, rows, x, y, z, colors },
    axes: {
      x: {
        title: axisTitle,
        ticks: atPositions.map((value) => ({ at: across(value), text: figures.fixed(value, positionDecimals) })),
      },
      y: {
        title: 'days',
        ticks: dayTicks(expiries.map((one) => one.days))
          .filter((day) => Math.abs(along(day)) <= 1 + 1e-9)
          .filter((_, i, all) => all.length < 7 || i % 2 === 0)
          .map((day) => ({ at: along(day), text: figures.days(day) })),
      },
      z: {
        title: `${isDifference ? `${name}, less the ghost's` : name}${unit ? `, ${unit}` : ''}`,
        ticks: heights.map((value) => ({ at: up(value / scale), text: figures.fixed(value, heightDecimals) })),
      },
    },
    lines,
    textAt: (point) => {
      const [i, j] = [Math.floor(point / columns), point % columns];
      return textsOf({ ...input, rows: [input.rows[i]!], days: [days[i]!] })[0]![j]!;
    },
    contractAt: (point) => input.contractAt(positions[point % columns]!, days[Math.floor(point / columns)]!),
    tokens,
    table: () => tableOf(input),
  };
}

/** A quantity by strike as it moves. */
export function quantityMoving({ quantity, positions, expiries, calls, puts, tokens }: QuantityLines): Moving {
  const { scale } = QUANTITIES[quantity];
  const line = (isDashed: boolean) => (row: Float64Array, i: number) => ({
    x: positions,
    y: row.map((value) => scale * value),
    color: depthColor(expiries[i]!.days, tokens),
    width: 1.3,
    isDashed,
  });
  return { lines: [...calls.map(line(false)), ...(puts ?? []).map(line(true))] };
}

export interface QuantityLines {
  quantity: GridQuantity;
  axis: Axis;
  positions: readonly number[];
  expiries: readonly (ExpiryId & { days: number })[];
  /** By expiry; puts only where they differ. */
  calls: readonly Float64Array[];
  puts: readonly Float64Array[] | null;
  litExpiry: string | null;
  litAt: number | null;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
  key: string;
  reach: MapReach | null;
}

/** A quantity by strike for all expiries over each other: calls as lines, puts dashed. */
export function quantityFigure(input: QuantityLines): Figure {
  const { quantity, axis, positions, expiries, calls, puts, litExpiry, tokens, ranges, key } = input;
  const { scale, name, unit } = QUANTITIES[quantity];
  const line = (row: Float64Array, i: number, side: Side): Data => {
    const one = expiries[i]!;
    const expiry = expiryName(one);
    const kind = puts ? ` ${side}` : '';
    return {
      type: 'scatter',
      mode: 'lines',
      x: [...positions],
      y: Array.from(row, (value) => (Number.isFinite(value) ? scale * value : null)) as number[],
      customdata: positions.map(() => [expiry]) as never,
      text: Array.from(
        row,
        (value, j) =>
          `${shortExpiry(one)}${kind} · ${axisText(axis, positions[j]!)}<br>${name} ${quantityText(quantity, value)} ${unit}`,
      ),
      hovertemplate: '%{text}<extra></extra>',
      line: {
        color: depthColor(one.days, tokens),
        width: expiry === litExpiry ? 2.6 : 1.3,
        dash: side === 'put' ? 'dash' : 'solid',
      },
    };
  };
  const all = [...calls, ...(puts ?? [])].flatMap((row) => Array.from(row, (value) => scale * value));
  return {
    data: [...calls.map((row, i) => line(row, i, 'call')), ...(puts ?? []).map((row, i) => line(row, i, 'put'))],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 54, r: 10, t: 10, b: 26 },
      xaxis: { ...baseAxis(tokens), range: [...positionsOf(input)], tickformat: axisFormat(axis) },
      yaxis: { ...baseAxis(tokens), range: ranges.y.of(key, all.filter(Number.isFinite)), tickformat: '~g' },
      shapes:
        input.litAt === null
          ? []
          : [
              {
                type: 'line',
                x0: input.litAt,
                x1: input.litAt,
                yref: 'paper',
                y0: 0,
                y1: 1,
                line: { color: tokens.focus, width: 1.2 },
              },
            ],
    },
    table: () => ({
      columns: [
        { name: 'expiry', type: 'day' },
        { name: 'settlement', type: 'text' },
        { name: 'side', type: 'text' },
        ...numberColumns(['at'], String),
        ...numberColumns([quantity], (value) => quantityText(quantity, value)),
      ],
      rows: [
        ...calls.map((row, i) => ({ row, i, side: puts ? 'call' : null })),
        ...(puts ?? []).map((row, i) => ({ row, i, side: 'put' })),
      ].flatMap(({ row, i, side }) =>
        Array.from(row, (value, j) => [expiries[i]!.expiry, expiries[i]!.settlement, side, positions[j]!, value]),
      ),
    }),
  };
}
