import type { OpenStrike, PainPoint, Side } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, type Figure } from '$lib/charts/figure';

export interface PainInput {
  strikes: readonly OpenStrike[];
  curve: readonly PainPoint[];
  /** Where the total is least. */
  strike: number;
  price: number;
  tokens: Tokens;
}

/** Open calls and puts by strike, and what they are worth by settlement price; the least is ruled. */
export function painFigure({ strikes, curve, strike, price, tokens }: PainInput): Figure {
  const x = strikes.map((one) => one.strike);
  const bars = (side: Side): Data =>
    ({
      type: 'bar',
      x,
      y: strikes.map((one) => (side === 'call' ? one.callOpenInterest : one.putOpenInterest)),
      yaxis: 'y2',
      marker: { color: side === 'call' ? tokens.gain : tokens.loss, opacity: 0.5 },
      hovertemplate: `%{x}: %{y} ${side}s open<extra></extra>`,
    }) as Data;
  const rule = (at: number, color: string, dash: 'solid' | 'dot') => ({
    ...{ type: 'line', x0: at, x1: at, yref: 'paper', y0: 0, y1: 1, line: { color, width: 1.4, dash } },
  });
  return {
    data: [
      bars('call'),
      bars('put'),
      {
        type: 'scatter',
        mode: 'lines',
        x: curve.map((point) => point.price),
        y: curve.map(({ total }) => total),
        line: { color: tokens.implied, width: 2 },
        hovertemplate: 'settled at %{x}: %{y:,.0f}<extra></extra>',
      },
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 48, r: 44, t: 6, b: 22 },
      barmode: 'group',
      xaxis: { ...baseAxis(tokens), tickformat: '~f' },
      yaxis: { ...baseAxis(tokens), rangemode: 'tozero', tickformat: '.2~s', overlaying: 'y2' },
      yaxis2: { ...baseAxis(tokens), side: 'right', rangemode: 'tozero', showgrid: false, tickformat: '.2~s' },
      shapes: [rule(strike, tokens.implied, 'solid'), rule(price, tokens.ink, 'dot')] as Layout['shapes'],
    },
    table: () => ({
      columns: numberColumns(['price', 'call_value', 'put_value', 'total', 'calls_open', 'puts_open'], (value) =>
        figures.fixed(value, 0),
      ),
      rows: curve.map((point, i) => [
        ...[point.price, point.callValue, point.putValue, point.total],
        ...[strikes[i]?.callOpenInterest ?? null, strikes[i]?.putOpenInterest ?? null],
      ]),
    }),
  };
}
