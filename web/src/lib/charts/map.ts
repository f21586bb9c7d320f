import type { GridQuantity } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { figures, shortDay } from '$lib/formats';
import type { Axis } from '$lib/state/context';
import type { Tokens } from '$lib/state/theme.svelte';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import { axisFormat } from './curve-line';
import { betweenColors, channels, depthColor } from './depth';
import { baseAxis, baseLayout, MONO, type Figure, type HeldRange } from './figure';
import type { Moving } from './moving';

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
  expiries: readonly { expiry: string; days: number; forward: number }[];
  lit: { at: number; days: number } | null;
  /** The contract that a place stands for. */
  contractAt: (position: number, days: number) => [expiry: string, strike: number, side: 'call' | 'put'];
  /** Of the colours, which hold still while it plays. */
  range: HeldRange;
  key: string;
  tokens: Tokens;
}

type ColorScale = [number, string][];

/** From shallow to deep; and from one side of nothing to the other. */
function scaleOf({ rows, isDifference, tokens, range, key }: MapInput) {
  const [low, high] = range.of(
    key,
    rows.flatMap((row) => [...row].filter(Number.isFinite)),
    0,
  );
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
        range: [positions[0]!, positions.at(-1)!],
        tickformat: axisFormat(axis),
        showgrid: false,
      },
      yaxis: {
        ...baseAxis(tokens),
        type: 'log',
        range: [Math.log10(days[0] ?? 1), Math.log10(days.at(-1) ?? 10)],
        tickvals: ticks,
        ticktext: ticks.map((day) => figures.days(day)),
        showgrid: true,
      },
    },
    table: () => tableOf(input),
  };
}

const SHADES = 128;

/** The colours of a heat map as they move, on the axes that it has. */
export function heatMoving(input: MapInput): Moving {
  const { positions, days, rows } = input;
  const { low, high, colors } = scaleOf(input);
  const shades = Array.from({ length: SHADES }, (_, i) => {
    const share = i / (SHADES - 1);
    const above = Math.max(
      1,
      colors.findIndex(([at]) => at >= share),
    );
    const [[from, a], [to, b]] = [colors[above - 1]!, colors[above]!];
    return channels(betweenColors(a, b, (share - from) / (to - from)));
  });
  const pixels = new Uint8ClampedArray(4 * positions.length * rows.length);
  rows.forEach((row, i) =>
    row.forEach((value, j) => {
      if (!Number.isFinite(value)) return;
      const shade = Math.round(((value - low) / (high - low || 1)) * (SHADES - 1));
      pixels.set([...shades[Math.max(0, Math.min(SHADES - 1, shade))]!, 255], 4 * (i * positions.length + j));
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

/** The eye of a picture in three dimensions: degrees around and over it, and how far away. */
export interface Eye {
  around: number;
  over: number;
  away: number;
}

export const USUAL_EYE: Eye = { around: -60, over: 25, away: 2.25 };

/** The eye that a place in the units of the picture means. */
export function eyeOf({ x, y, z }: { x: number; y: number; z: number }): Eye {
  const away = Math.hypot(x, y, z);
  return { around: (180 / Math.PI) * Math.atan2(y, x), over: (180 / Math.PI) * Math.asin(z / away), away };
}

/** Where an eye stands. */
export function placeOf({ around, over, away }: Eye): { x: number; y: number; z: number } {
  const [a, o] = [(Math.PI / 180) * around, (Math.PI / 180) * over];
  return { x: away * Math.cos(o) * Math.cos(a), y: away * Math.cos(o) * Math.sin(a), z: away * Math.sin(o) };
}

/**
 * A body without ragged edges: what lies beyond the last place with a value falls on that place.
 *
 * @returns places and values by row
 */
export function hemmed(
  positions: readonly number[],
  rows: readonly (number | null)[][],
): { x: number[][]; z: (number | null)[][] } {
  const ends = rows.map(
    (row) => [row.findIndex((value) => value !== null), row.findLastIndex((value) => value !== null)] as const,
  );
  const within = (i: number, j: number) => {
    const [from, to] = ends[i]!;
    return Math.max(from, Math.min(to, j));
  };
  return {
    x: rows.map((_, i) => positions.map((_, j) => positions[within(i, j)] ?? NaN)),
    z: rows.map((row, i) => row.map((_, j) => row[within(i, j)] ?? null)),
  };
}

/** A quantity as a body over strikes and times. Needs Plotly's bundle of three dimensions. */
export function bodyFigure(input: MapInput, eye: Eye): Figure {
  const { positions, days, expiries, tokens, quantity, axis, axisTitle, isDifference } = input;
  const { low, high, colors } = scaleOf(input);
  const { scale, name, unit } = QUANTITIES[quantity];
  const ticks = dayTicks(expiries.map((one) => one.days)).filter((_, i, all) => all.length < 7 || i % 2 === 0);
  const { x, z } = hemmed(positions, scaledRows(input));
  const sceneAxis = (title: string): Partial<Layout['scene']['xaxis']> => ({
    gridcolor: tokens.line,
    zeroline: false,
    showbackground: false,
    showspikes: false,
    color: tokens.soft,
    tickfont: { family: MONO, size: 10, color: tokens.soft },
    title: titled(title, tokens.soft) as never,
  });
  return {
    data: [
      {
        type: 'surface',
        x,
        y: days.map((day) => positions.map(() => Math.log10(day))),
        z,
        cmin: scale * low,
        cmax: scale * high,
        colorscale: colors,
        showscale: false,
        text: textsOf(input),
        hovertemplate: '%{text}<extra></extra>',
        contours: { x: { highlight: false }, y: { highlight: false }, z: { highlight: false } },
        lighting: { ambient: 0.85, diffuse: 0.4, specular: 0.05 },
      } as unknown as Data,
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 0, r: 0, t: 0, b: 0 },
      uirevision: 'eye',
      scene: {
        camera: { eye: placeOf(eye), up: { x: 0, y: 0, z: 1 }, center: { x: 0, y: 0, z: -0.12 } },
        aspectmode: 'manual',
        aspectratio: { x: 1.2, y: 1.1, z: 0.75 },
        xaxis: {
          ...sceneAxis(axisTitle),
          tickformat: axisFormat(axis),
          ...(axis === 'delta' ? { autorange: 'reversed' } : {}),
        },
        yaxis: {
          ...sceneAxis('days'),
          tickvals: ticks.map(Math.log10),
          ticktext: ticks.map((day) => figures.days(day)),
        },
        zaxis: sceneAxis(`${isDifference ? `${name}, less the ghost's` : name}${unit ? `, ${unit}` : ''}`),
      } as Layout['scene'],
    },
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
  expiries: readonly { expiry: string; days: number }[];
  /** By expiry; puts only where they differ. */
  calls: readonly Float64Array[];
  puts: readonly Float64Array[] | null;
  litExpiry: string | null;
  litAt: number | null;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
  key: string;
}

/** A quantity by strike for all expiries over each other: calls as lines, puts dashed. */
export function quantityFigure(input: QuantityLines): Figure {
  const { quantity, axis, positions, expiries, calls, puts, litExpiry, tokens, ranges, key } = input;
  const { scale, name, unit } = QUANTITIES[quantity];
  const line = (row: Float64Array, i: number, side: 'call' | 'put'): Data => {
    const { expiry, days } = expiries[i]!;
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
          `${shortDay(expiry)}${kind} · ${axisText(axis, positions[j]!)}<br>${name} ${quantityText(quantity, value)} ${unit}`,
      ),
      hovertemplate: '%{text}<extra></extra>',
      line: {
        color: depthColor(days, tokens),
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
      xaxis: { ...baseAxis(tokens), range: [positions[0]!, positions.at(-1)!], tickformat: axisFormat(axis) },
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
        { name: 'side', type: 'text' },
        ...numberColumns(['at'], String),
        ...numberColumns([quantity], (value) => quantityText(quantity, value)),
      ],
      rows: [
        ...calls.map((row, i) => ({ row, i, side: puts ? 'call' : null })),
        ...(puts ?? []).map((row, i) => ({ row, i, side: 'put' })),
      ].flatMap(({ row, i, side }) => Array.from(row, (value, j) => [expiries[i]!.expiry, side, positions[j]!, value])),
    }),
  };
}
