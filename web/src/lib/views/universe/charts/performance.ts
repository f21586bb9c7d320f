import type { Data } from 'plotly.js';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { betweenColors } from '$lib/charts/depth';
import { baseAxis, baseLayout, MONO, type Figure, type HeldRange } from '$lib/charts/figure';

export interface PerformanceInput {
  days: readonly string[];
  /** The one that others are compared with first. */
  lines: readonly { symbol: string; values: readonly (number | null)[] }[];
  /** The one that is lit; null for none. */
  lit: string | null;
  key: string;
  tokens: Tokens;
  range: HeldRange;
}

/** Labels closer than this share of the height would lie over each other. */
const LEAST_GAP = 0.06;

/** Prices from 100 on over each other, each named at its end; the first one strongest. */
export function performanceFigure({ days, lines, lit, key, tokens, range }: PerformanceInput): Figure {
  const strong = (symbol: string, i: number) => i === 0 || symbol === lit;
  const colorOf = (symbol: string, i: number) =>
    symbol === lit
      ? tokens.focus
      : i === 0
        ? tokens.ink
        : betweenColors(tokens.implied, tokens.line, i / (lines.length + 2));
  const data = lines.map(({ symbol, values }, i): Data => ({
    type: 'scatter',
    mode: 'lines',
    x: [...days],
    y: [...values],
    name: symbol,
    line: { color: colorOf(symbol, i), width: strong(symbol, i) ? 2 : 1.2 },
    hovertemplate: `${symbol}<br>%{x|%-d %b %Y}: %{y:.1f}<extra></extra>`,
  }));
  const across = range.of(
    key,
    lines.flatMap(({ values }) => values.map((value) => value ?? NaN)),
  );
  const ends = lines.flatMap(({ symbol, values }, i) => {
    const value = values.findLast((one) => one !== null);
    return value === null || value === undefined ? [] : [{ symbol, value, color: colorOf(symbol, i) }];
  });
  return {
    data: data.toReversed(),
    layout: {
      ...baseLayout(tokens),
      margin: { l: 40, r: 62, t: 8, b: 24 },
      xaxis: { ...baseAxis(tokens), type: 'date', tickformat: '%-d %b', nticks: 6 },
      yaxis: { ...baseAxis(tokens), range: across, tickformat: '~f' },
      annotations: apart(ends, (across[1] - across[0]) * LEAST_GAP).map(({ symbol, at, color }) => ({
        text: symbol,
        ...{ xref: 'paper', x: 1, xanchor: 'left', y: at, showarrow: false },
        font: { family: MONO, size: 10, color },
      })),
    },
    table: () => ({
      columns: [
        { name: 'date', type: 'day' },
        ...numberColumns(
          lines.map(({ symbol }) => symbol),
          (value) => figures.fixed(value, 2),
        ),
      ],
      rows: days.map((day, i) => [day, ...lines.map(({ values }) => values[i] ?? null)]),
    }),
  };
}

/** Places for labels no closer than a gap, in the order of their values. */
export function apart<T extends { value: number }>(labels: readonly T[], gap: number): (T & { at: number })[] {
  const sorted = labels.toSorted((a, b) => a.value - b.value).map((one) => ({ ...one, at: one.value }));
  for (let i = 1; i < sorted.length; i++) sorted[i]!.at = Math.max(sorted[i]!.at, sorted[i - 1]!.at + gap);
  // Pushed apart, they are centred again as a group.
  const shift = sorted.reduce((sum, { at, value }) => sum + (at - value) / sorted.length, 0);
  return sorted.map((one) => ({ ...one, at: one.at - shift }));
}
