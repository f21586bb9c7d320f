import type { Data } from 'plotly.js';
import { baseAxis, baseLayout, MONO, type Figure } from '$lib/charts/figure';
import { figures } from '$lib/formats';
import { numberColumns } from '$lib/tables/data-table';
import { grounds, linesFigure, MARGIN, rule, type Line } from '$lib/charts/lines';
import { columnOf, digitsOf, linesOf, type Drawn } from './profile';

/** The level that the axis of vols is told by, and where it stood in the last year. */
export interface VolLevel {
  now: number;
  low: number;
  high: number;
}

/** Profit or a Greek along the vol, a curve for each date: the axis tells where a month's vol stands as all of them move. */
export function volFigure(input: Drawn & { level: VolLevel }): Figure {
  const { level, tokens } = input;
  const { now, low, high } = level;
  const x = Array.from(input.x, (shift) => 100 * (now + shift));
  const figure = linesFigure({ x, xName: 'vol', xText: (value) => figures.fixed(value, 2) }, linesOf(input), {
    ...{ tokens, digits: digitsOf(input) },
    shapes: [
      {
        ...{ type: 'rect', x0: 100 * low, x1: 100 * high, yref: 'paper', y0: 0, y1: 1, layer: 'below' },
        ...{ fillcolor: tokens.band, line: { width: 0 } },
      },
      rule(100 * now, tokens.focus, 'solid', 1.2),
    ],
    annotations: [
      {
        ...{ x: 50 * (low + high), y: 1, yref: 'paper', yanchor: 'top', showarrow: false },
        ...{ text: 'iv30 of the past year', font: { color: tokens.soft, size: 11 } },
      },
    ],
  });
  // No vol is under nothing.
  figure.layout.xaxis!.range = [Math.max(0, x[0]!), x.at(-1)!];
  return figure;
}

/** A leg's profit at the first expiry along the price. */
export interface LegCurve {
  name: string;
  isBought: boolean;
  pnl: Float64Array;
}

/** Legs at the first expiry, each alone, and their sum. */
export function legsFigure(input: Drawn & { price: number; legs: readonly LegCurve[] }): Figure {
  const { legs, times, tokens, digits, price, decimals } = input;
  const x = Array.from(input.x);
  const ofLegs = legs.map(({ name, isBought, pnl }): Line => ({
    ...{ name, y: Array.from(pnl, (value) => value * times) },
    ...{ color: isBought ? tokens.gain : tokens.loss, width: 1.3, dash: isBought ? 'solid' : 'dash' },
  }));
  const sum = x.map((_, i) => ofLegs.reduce((total, { y }) => total + y[i]!, 0));
  return linesFigure(
    { x, xName: 'price', xText: (value) => figures.fixed(value, decimals) },
    [...ofLegs, { name: 'all', y: sum, color: tokens.ink, width: 2.4, dash: 'solid' }],
    { tokens, digits, below: grounds(x, sum, tokens), shapes: [rule(price, tokens.focus, 'solid', 1.2)] },
  );
}

/** Profit or a Greek over price and date as colours, with a line where it is nothing. Needs Plotly's cartesian bundle. */
export function mapFigure(input: Drawn & { days: readonly number[]; price: number }): Figure {
  const { curves, quantity, times, tokens, decimals, days, price } = input;
  const x = Array.from(input.x);
  const rows = curves.map(({ columns }) => Array.from(columnOf(columns, quantity), (value) => value * times));
  const most = Math.max(...rows.flat().map(Math.abs).filter(Number.isFinite), Number.MIN_VALUE);
  const digits = digitsOf(input);
  const placed = { x, y: [...days], z: rows };
  return {
    data: [
      {
        ...{ ...placed, type: 'heatmap', zmin: -most, zmax: most, zsmooth: 'best' },
        colorscale: [
          [0, tokens.loss],
          [0.5, tokens.panel],
          [1, tokens.gain],
        ],
        hovertemplate: `%{z:,.${digits}f} at %{x:,.${decimals}f} in %{y:.0f} days<extra></extra>`,
        colorbar: {
          ...{ thickness: 10, x: 1.01, xpad: 4, outlinewidth: 0 },
          tickfont: { family: MONO, size: 11, color: tokens.soft },
        },
      } as unknown as Data,
      {
        ...{ ...placed, type: 'contour', showscale: false, hoverinfo: 'skip' },
        contours: { coloring: 'none', start: 0, end: 0, size: 1 },
        line: { color: tokens.ink, width: 1.5, dash: 'dash' },
      } as unknown as Data,
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { ...MARGIN, r: 84 },
      xaxis: { ...baseAxis(tokens), range: [x[0] ?? 0, x.at(-1) ?? 1], tickformat: '~f' },
      yaxis: {
        ...baseAxis(tokens),
        title: { text: 'days from now', font: { family: MONO, size: 11, color: tokens.soft } },
      },
      shapes: [rule(price, tokens.focus, 'solid', 1.2) as never],
    },
    table: () => ({
      columns: [
        ...numberColumns(['days'], (value) => figures.fixed(value, 1)),
        ...numberColumns(['price'], (value) => figures.fixed(value, decimals)),
        ...numberColumns([quantity], (value) => figures.fixed(value, digits + 2)),
      ],
      rows: rows.flatMap((row, i) => row.map((value, j) => [days[i]!, x[j]!, value])),
    }),
  };
}
