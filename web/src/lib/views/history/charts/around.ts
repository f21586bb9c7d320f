import type { Data } from 'plotly.js';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { betweenColors } from '$lib/charts/depth';
import { baseAxis, baseLayout, type Figure, type HeldRange } from '$lib/charts/figure';

export interface AroundInput {
  /** An announcement each, the latest first: hours from it, and vols in per cent. */
  paths: readonly { name: string; hours: readonly number[]; vols: readonly number[] }[];
  key: string;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

const DAY = 24;

/** Vols around announcements over each other, by hours from them; the latest strongest. */
export function aroundFigure({ paths, key, tokens, ranges }: AroundInput): Figure {
  const data = paths.map(({ name, hours, vols }, i): Data => ({
    type: 'scatter',
    mode: 'lines+markers',
    x: [...hours],
    y: [...vols],
    name,
    line: {
      color: betweenColors(tokens.implied, tokens.line, i / Math.max(1, paths.length)),
      width: i === 0 ? 2 : 1.4,
    },
    marker: { size: 4 },
    hovertemplate: `${name}<br>%{x:.1f} hours: %{y:.1f} %<extra></extra>`,
  }));
  const hours = paths.flatMap((path) => path.hours);
  const days = [-4, -3, -2, -1, 0, 1, 2, 3, 4];
  return {
    data: data.toReversed(),
    layout: {
      ...baseLayout(tokens),
      margin: { l: 44, r: 12, t: 8, b: 24 },
      xaxis: {
        ...baseAxis(tokens),
        range: ranges.x.of(key, hours, 0.03),
        tickvals: days.map((day) => DAY * day),
        ticktext: days.map((day) => (day === 0 ? 'announced' : `${figures.signed(day, 0)} d`)),
      },
      yaxis: {
        ...baseAxis(tokens),
        range: ranges.y.of(
          key,
          paths.flatMap(({ vols }) => [...vols]),
        ),
        tickformat: '~f',
      },
      shapes: [
        {
          type: 'line',
          x0: 0,
          x1: 0,
          yref: 'paper',
          y0: 0,
          y1: 1,
          line: { color: tokens.loss, width: 1, dash: 'dot' },
        },
      ],
    },
    table: () => ({
      columns: [
        { name: 'announcement', type: 'text' },
        ...numberColumns(['hours'], (value) => figures.signed(value, 2)),
        ...numberColumns(['vol'], (value) => figures.fixed(value, 2)),
      ],
      rows: paths.flatMap(({ name, hours: at, vols }) => at.map((hour, i) => [name, hour, vols[i]!])),
    }),
  };
}
