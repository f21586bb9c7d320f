import { DAYS_PER_YEAR, type BoundaryPoint, type Contract } from '@umwelt/core';
import { baseAxis, baseLayout, MONO, type Figure } from '$lib/charts/figure';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';

/** The boundary over the life of a contract, with where the price is now. */
export function boundaryFigure(contract: Contract, points: readonly BoundaryPoint[], tokens: Tokens): Figure {
  const life = contract.years * DAYS_PER_YEAR;
  const x = points.map(({ years }) => life - DAYS_PER_YEAR * years);
  const y = points.map(({ price }) => price);
  const spot = contract.spot!;
  const edge = contract.side === 'put' ? Math.min(...y, spot) : Math.max(...y, spot);
  const outer =
    contract.side === 'put'
      ? edge - 0.1 * Math.abs(spot - edge) - 0.02 * spot
      : edge + 0.1 * Math.abs(spot - edge) + 0.02 * spot;
  const text = (content: object, color: string) => ({
    showarrow: false,
    font: { family: MONO, size: 11, color },
    ...content,
  });
  return {
    data: [
      { type: 'scatter', mode: 'lines', x: [0, life], y: [outer, outer], line: { width: 0 }, hoverinfo: 'skip' },
      {
        type: 'scatter',
        mode: 'lines',
        x,
        y,
        fill: 'tonexty',
        fillcolor: tokens.band,
        line: { color: tokens.implied, width: 1.8, shape: 'spline' },
        hovertemplate: 'day %{x:.1f}<br>exercised at %{y:.4~f}<extra></extra>',
      },
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 48, r: 12, t: 6, b: 34 },
      xaxis: { ...baseAxis(tokens), title: { text: 'days from now', standoff: 4, font: { family: MONO, size: 11 } } },
      yaxis: { ...baseAxis(tokens), tickformat: '~g' },
      shapes: [
        {
          type: 'line',
          xref: 'paper',
          x0: 0,
          x1: 1,
          y0: spot,
          y1: spot,
          line: { color: tokens.focus, width: 1, dash: 'dot' },
        },
      ],
      annotations: [
        text(
          {
            xref: 'paper',
            x: 1,
            xanchor: 'right',
            y: spot,
            yanchor: contract.side === 'put' ? 'bottom' : 'top',
            text: `spot ${figures.fixed(spot, 2)}`,
          },
          tokens.focus,
        ),
        text(
          { xref: 'paper', x: 0.5, yref: 'paper', y: contract.side === 'put' ? 0.06 : 0.94, text: 'exercised here' },
          tokens.soft,
        ),
      ] as never,
    },
    table: () => ({
      columns: numberColumns(['days_from_now', 'boundary'], (value) => figures.fixed(value, 4)),
      rows: points.map(({ price }, i) => [x[i]!, price]),
    }),
  };
}
