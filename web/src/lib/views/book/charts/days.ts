import { PROFIT_PARTS, type ProfitPart } from '@umwelt/core';
import type { Data } from 'plotly.js';
import type { Explained } from '$lib/book';
import { baseAxis, baseLayout, type Figure } from '$lib/charts/figure';
import { figures, momentDay } from '$lib/formats';
import { numberColumns } from '$lib/tables';
import type { Tokens } from '$lib/ui/theme.svelte';
import { partLabel } from '../explain';

/** A colour of the theme for each part. */
const COLORS: Record<ProfitPart, (tokens: Tokens) => string> = {
  price: ({ ink }) => ink,
  time: ({ depths }) => depths[2]!,
  events: ({ depths }) => depths[0]!,
  level: ({ implied }) => implied,
  skew: ({ depths }) => depths[4]!,
  curvature: ({ depths }) => depths[6]!,
  carry: ({ soft }) => soft,
  fills: ({ loss }) => loss,
  rest: ({ line }) => line,
};

export const colorOf = (part: ProfitPart, tokens: Tokens): string => COLORS[part](tokens);

/** Parts that are something on some day. */
export const partsDrawn = ({ stretches }: Pick<Explained, 'stretches'>): ProfitPart[] =>
  PROFIT_PARTS.filter((part) => stretches.some(({ parts }) => Math.abs(parts[part]) >= 0.5));

/** What each day brought as bars of its parts, stacked, with their sum as dots. */
export function daysFigure({ stretches }: Explained, tokens: Tokens, zone: string): Figure {
  const x = stretches.map(({ to }) => Date.parse(to));
  const words = x.map((instant) => momentDay(instant, zone));
  const bars = partsDrawn({ stretches }).map((part): Data => ({
    type: 'bar',
    name: partLabel(part),
    x: words,
    y: stretches.map(({ parts }) => parts[part]),
    marker: { color: colorOf(part, tokens) },
    hovertemplate: `%{x}<br>${partLabel(part)} %{y:,.0f}<extra></extra>`,
  }));
  const sums: Data = {
    type: 'scatter',
    mode: 'markers',
    name: 'change',
    x: words,
    y: stretches.map(({ change }) => change),
    marker: { color: tokens.panel, size: 6, line: { color: tokens.ink, width: 1.5 } },
    text: stretches.map(({ change }) => figures.signed(change, 0)),
    hovertemplate: '%{x}<br>change %{text}<extra></extra>',
  };
  return {
    data: [...bars, sums],
    layout: {
      ...baseLayout(tokens),
      barmode: 'relative',
      bargap: 0.25,
      margin: { l: 52, r: 8, t: 6, b: 22 },
      xaxis: { ...baseAxis(tokens), type: 'category', nticks: 7, showgrid: false },
      yaxis: { ...baseAxis(tokens), zeroline: true, zerolinecolor: tokens.soft, tickformat: ',.0f', nticks: 5 },
    },
    table: () => ({
      columns: [{ name: 'day', type: 'text' }, ...numberColumns([...PROFIT_PARTS, 'change'])],
      rows: stretches.map(({ parts, change }, i) => [words[i]!, ...PROFIT_PARTS.map((part) => parts[part]), change]),
    }),
  };
}
