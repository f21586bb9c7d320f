import type { Data, Layout } from 'plotly.js';
import { baseAxis, baseLayout, type Figure } from './figure';
import { numberColumns } from '$lib/tables/data-table';
import type { Tokens } from '$lib/ui/theme.svelte';

/** Room beside the plot, which what lies over and under it keeps as well. */
export const MARGIN = { l: 62, r: 14, t: 6, b: 22 } as const;

/** A line of a picture. */
export interface Line {
  name: string;
  y: readonly number[];
  color: string;
  width: number;
  dash: 'solid' | 'dash' | 'dot';
}

type Dash = Line['dash'];

/** A rule across the plot at a place of its axis. */
export function rule(at: number, color: string, dash: Dash, width: number): Partial<Layout['shapes'][number]> {
  return { type: 'line', x0: at, x1: at, yref: 'paper', y0: 0, y1: 1, line: { color, width, dash } } as Partial<
    Layout['shapes'][number]
  >;
}

/** Gains on a plain ground, losses on a hatched one, over nothing. */
export function grounds(x: readonly number[], y: readonly number[], tokens: Tokens): Data[] {
  const ground = (sign: 1 | -1): Data =>
    ({
      ...{ type: 'scatter', mode: 'none', x, y: y.map((value) => sign * Math.max(0, sign * value)) },
      ...{ fill: 'tozeroy', hoverinfo: 'skip' },
      fillcolor: sign > 0 ? tokens.band : 'rgba(0,0,0,0)',
      ...(sign < 0 && {
        fillpattern: {
          ...{ shape: '/', fgcolor: tokens.loss, fgopacity: 0.45, bgcolor: 'rgba(0,0,0,0)', size: 9, solidity: 0.12 },
        },
      }),
    }) as Data;
  return [ground(1), ground(-1)];
}

/** Values along other places than their own, straight between them; NaN beyond. */
export function alongOther(x: ArrayLike<number>, own: ArrayLike<number>, values: ArrayLike<number>): number[] {
  let at = 0;
  return Array.from(x, (place) => {
    while (at + 2 < own.length && own[at + 1]! < place) at++;
    const [from, to] = [own[at]!, own[at + 1]!];
    if (!(place >= from && place <= to)) return NaN;
    const share = (place - from) / (to - from);
    return values[at]! * (1 - share) + values[at + 1]! * share;
  });
}

/** A range that all values fit in, with some room; nothing is always in it. */
function rangeOf(lines: readonly Line[]): [number, number] {
  let [low, high] = [0, 0];
  for (const { y } of lines)
    for (const value of y) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
  const room = (high - low || 1) * 0.06;
  return [low - room, high + room];
}

/** Lines over a common axis, told together where they are pointed at; the figures as a table, a row a place. */
export function linesFigure(
  { x, xName, xText }: { x: readonly number[]; xName: string; xText: (value: number) => string },
  lines: readonly Line[],
  { tokens, digits, below = [], above = [], shapes = [], annotations = [] }: LinesOptions,
): Figure {
  return {
    data: [
      ...below,
      ...lines.map(
        ({ name, y, color, width, dash }) =>
          ({
            ...{ type: 'scatter', mode: 'lines', name, x, y, line: { color, width, dash } },
            hovertemplate: `%{y:,.${digits}f} ${name}<extra></extra>`,
          }) as Data,
      ),
      ...above,
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { ...MARGIN },
      hovermode: 'x unified',
      xaxis: { ...baseAxis(tokens), range: [x[0] ?? 0, x.at(-1) ?? 1], tickformat: '~f' },
      yaxis: {
        ...{ ...baseAxis(tokens), range: rangeOf(lines), tickformat: ',~r' },
        ...{ zeroline: true, zerolinecolor: tokens.ink, zerolinewidth: 1 },
      },
      shapes: shapes as Layout['shapes'],
      annotations: annotations as Layout['annotations'],
    },
    table: () => ({
      columns: [
        ...numberColumns([xName], xText),
        ...numberColumns(
          lines.map(({ name }) => name),
          (value) => value.toFixed(digits + 2),
        ),
      ],
      rows: x.map((at, i) => [at, ...lines.map(({ y }) => y[i]!)]),
    }),
  };
}

interface LinesOptions {
  tokens: Tokens;
  /** Decimals of what is drawn. */
  digits: number;
  /** Traces under the lines. */
  below?: readonly Data[];
  /** And over them. */
  above?: readonly Data[];
  shapes?: readonly Partial<Layout['shapes'][number]>[];
  annotations?: readonly Partial<Layout['annotations'][number]>[];
}
