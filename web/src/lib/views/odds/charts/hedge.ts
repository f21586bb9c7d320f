import type { HedgePoint } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, type Figure } from '$lib/charts/figure';

export interface HedgeInput {
  points: readonly HedgePoint[];
  price: number;
  /** Levels of the expected move. */
  levels: readonly number[];
  /** Between which prices the hedge moves fast. */
  fast: { from: number; to: number } | null;
  tokens: Tokens;
}

/** Units of the underlying that hedge a sold straddle, by price; where it moves fastest lies under a band. */
export function hedgeFigure({ points, price, levels, fast, tokens }: HedgeInput): Figure {
  const rule = (at: number, color: string, dash: 'solid' | 'dot') => ({
    ...{ type: 'line', x0: at, x1: at, yref: 'paper', y0: 0, y1: 1, line: { color, width: 1.2, dash } },
  });
  return {
    data: [
      {
        type: 'scatter',
        mode: 'lines',
        x: points.map((point) => point.price),
        y: points.map(({ hedge }) => hedge),
        line: { color: tokens.implied, width: 2.2 },
        hovertemplate: 'at %{x:.6~g}: hold %{y:.3f}<extra></extra>',
      } as Data,
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 40, r: 10, t: 6, b: 22 },
      xaxis: { ...baseAxis(tokens), tickformat: '~f' },
      yaxis: {
        ...baseAxis(tokens),
        range: [-1.08, 1.08],
        tickformat: '.1f',
        zeroline: true,
        zerolinecolor: tokens.line,
      },
      shapes: [
        ...(fast
          ? [
              {
                ...{ type: 'rect', x0: fast.from, x1: fast.to, yref: 'paper', y0: 0, y1: 1, layer: 'below' },
                ...{ fillcolor: tokens.band, line: { width: 0 } },
              },
            ]
          : []),
        ...levels.map((level) => rule(level, tokens.gain, 'solid')),
        rule(price, tokens.focus, 'solid'),
      ] as Layout['shapes'],
    },
    table: () => ({
      columns: [
        ...numberColumns(['price'], (value) => figures.fixed(value, 2)),
        ...numberColumns(['hedge', 'delta', 'gamma', 'value'], (value) => figures.fixed(value, 5)),
      ],
      rows: points.map((point) => [point.price, point.hedge, point.delta, point.gamma, point.value]),
    }),
  };
}
