import type { Data } from 'plotly.js';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, type Figure, type HeldRange } from '$lib/charts/figure';

/** A pair through time: vols as decimals, NaN where there are none. */
export interface PairLines {
  asofs: readonly string[];
  putVol: ArrayLike<number>;
  callVol: ArrayLike<number>;
  ratio: ArrayLike<number>;
  key: string;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

/** Pixels around the lines. */
export const PAIR_MARGIN = { l: 40, r: 10, t: 6, b: 22 };

/** Gap of the vols above, ratio of the prices below, on one axis of time. */
export function pairFigure({ asofs, putVol, callVol, ratio, key, tokens, ranges }: PairLines): Figure {
  const x = [...asofs];
  const gaps = x.map((_, i) => 100 * (putVol[i]! - callVol[i]!));
  const line = (y: number[], color: string, yaxis: 'y' | 'y2', text: string): Data => ({
    type: 'scatter',
    mode: 'lines',
    x,
    y: y.map((value) => (Number.isFinite(value) ? value : null)) as number[],
    yaxis,
    line: { color, width: 1.5 },
    hovertemplate: `%{x|%-d %b %Y}<br>${text}<extra></extra>`,
  });
  const ratios = Array.from(ratio);
  return {
    data: [
      line(gaps, tokens.implied, 'y', 'put less call %{y:.2f} points'),
      line(ratios, tokens.ink, 'y2', 'put over call price %{y:.2f}'),
    ],
    layout: {
      ...baseLayout(tokens),
      margin: PAIR_MARGIN,
      xaxis: {
        ...baseAxis(tokens),
        type: 'date',
        range: [x[0], x.at(-1)],
        anchor: 'y2',
        tickformat: '%-d %b',
        nticks: 8,
      },
      yaxis: {
        ...baseAxis(tokens),
        domain: [0.55, 1],
        range: ranges.x.of(key, gaps.filter(Number.isFinite)),
        tickformat: '.1f',
      },
      yaxis2: {
        ...baseAxis(tokens),
        domain: [0, 0.45],
        range: ranges.y.of(key, ratios.filter(Number.isFinite)),
        tickformat: '.2f',
      },
    },
    table: () => ({
      columns: [
        { name: 'asof', type: 'instant' },
        ...numberColumns(['put_vol', 'call_vol'], (value) => figures.vol(value, 2)),
        ...numberColumns(['ratio'], (value) => figures.fixed(value, 3)),
      ],
      rows: x.map((asof, i) => [asof, putVol[i]!, callVol[i]!, ratio[i]!]),
    }),
  };
}
