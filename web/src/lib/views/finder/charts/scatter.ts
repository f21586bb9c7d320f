import type { FinderMeasure, FoundRow, Scatter } from '@umwelt/core';
import type { Data, PlotData } from 'plotly.js';
import { baseAxis, baseLayout, MONO, type Figure } from '$lib/charts/figure';
import { numberColumns } from '$lib/tables/data-table';
import type { Tokens } from '$lib/ui/theme.svelte';
import { TOLD, written } from '../measures';
import { keyOf, nameOf, strikesOf } from '../rows';

export interface ScatterInput {
  scatter: Scatter;
  rows: readonly FoundRow[];
  /** The row in focus. */
  row: FoundRow | null;
  x: FinderMeasure;
  y: FinderMeasure;
  tokens: Tokens;
}

const STEPS = 60;

/**
 * The return on risk at which a structure that gains all or loses all is fair, by the odds of its profit: (1 − p)/p. Null for other
 * measures.
 */
export function fairLine(x: FinderMeasure, y: FinderMeasure, [from, to]: readonly [number, number]) {
  const isOdds = x === 'probabilityOfProfit' || x === 'odds.past' || x === 'odds.ownVol';
  if (!isOdds || (y !== 'returnOnRisk' && y !== 'rewardToRisk')) return null;
  const odds = Array.from({ length: STEPS + 1 }, (_, i) => Math.max(0.01, from + ((to - from) * i) / STEPS));
  return { x: odds, y: odds.map((p) => (1 - p) / p) };
}

const scaleOf = (measure: FinderMeasure) => (TOLD[measure].as === 'percent' || TOLD[measure].as === 'vol' ? 100 : 1);

/** All candidates counted by two measures, the rows as marks over them, and the line of fair odds. */
export function scatterFigure({ scatter, rows, row, x, y, tokens }: ScatterInput): Figure {
  const [across, up] = [scaleOf(x), scaleOf(y)];
  const { counts } = scatter;
  const middles = ([from, to]: readonly [number, number], count: number, scale: number) =>
    Array.from({ length: count }, (_, i) => scale * (from + ((i + 0.5) / count) * (to - from)));
  const columns = counts[0]?.length ?? 0;
  const known = rows.filter(({ measures }) => Number.isFinite(measures[x]) && Number.isFinite(measures[y]));
  const fair = fairLine(x, y, scatter.x);
  const title = (measure: FinderMeasure) => ({
    text: `${TOLD[measure].label}${scaleOf(measure) === 100 ? ', %' : ''}`,
    font: { family: MONO, size: 11, color: tokens.soft },
    standoff: 6,
  });
  const padded = ([from, to]: readonly [number, number], scale: number) => {
    const room = 0.03 * (to - from || 1);
    return [scale * (from - room), scale * (to + room)];
  };
  const marks = (some: readonly FoundRow[], color: string, size: number, name: string): Data => ({
    type: 'scatter',
    mode: 'markers',
    name,
    x: some.map(({ measures }) => across * measures[x]),
    y: some.map(({ measures }) => up * measures[y]),
    customdata: some.map((one) => [keyOf(one)]) as unknown as PlotData['customdata'],
    text: some.map((one) => `${one.symbol} ${nameOf(one)}<br>${strikesOf(one)}`),
    marker: { color, size, line: { color: tokens.panel, width: 1 } },
    hovertemplate: '%{text}<br>%{x:.4~g}, %{y:.4~g}<extra></extra>',
  });
  return {
    data: [
      {
        type: 'heatmap',
        x: middles(scatter.x, columns, across),
        y: middles(scatter.y, counts.length, up),
        // Few beside many are seen by their logarithm.
        z: counts.map((line) => line.map((count) => (count > 0 ? Math.log10(1 + count) : null))),
        text: counts.map((line) => line.map(String)),
        colorscale: [
          [0, tokens.band],
          [1, tokens.implied],
        ],
        showscale: false,
        name: 'candidates',
        hovertemplate: '%{text} made near %{x:.4~g}, %{y:.4~g}<extra></extra>',
      } as unknown as Data,
      ...(fair
        ? [
            {
              type: 'scatter',
              mode: 'lines',
              name: 'fair odds',
              x: fair.x.map((p) => 100 * p),
              y: fair.y.map((value) => up * value),
              line: { color: tokens.ink, width: 1.4, dash: 'dash' },
              hovertemplate: 'fair at %{x:.1f} %: %{y:.4~g}<extra></extra>',
            } as Data,
          ]
        : []),
      marks(known, tokens.gain, 7, 'rows'),
      ...(row && known.includes(row) ? [marks([row], tokens.focus, 11, 'in focus')] : []),
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 62, r: 14, t: 8, b: 44 },
      hovermode: 'closest',
      dragmode: 'select',
      showlegend: false,
      xaxis: { ...baseAxis(tokens), title: title(x), range: padded(scatter.x, across), tickformat: '~g' },
      yaxis: { ...baseAxis(tokens), title: title(y), range: padded(scatter.y, up), tickformat: '~g' },
    },
    table: () => ({
      columns: [
        { name: 'symbol', type: 'text' },
        { name: 'structure', type: 'text' },
        { name: 'strikes', type: 'text' },
        ...numberColumns([x]).map((column) => ({ ...column, write: (value: number) => written(x, value) })),
        ...numberColumns([y]).map((column) => ({ ...column, write: (value: number) => written(y, value) })),
      ],
      rows: known.map((one) => [one.symbol, nameOf(one), strikesOf(one), one.measures[x], one.measures[y]]),
    }),
  };
}
