import type { HedgedHistory, HedgedStep } from '@umwelt/core';
import type { Figure } from '$lib/charts/figure';
import { linesFigure, type Line } from '$lib/charts/lines';
import { momentDay } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';

/** What was gained since the entry: hedged and not, and what gamma less theta and vega alone account for. */
export const LINES: readonly (Pick<Line, 'name' | 'width' | 'dash'> & {
  color: 'ink' | 'soft' | 'realized' | 'implied';
  of: (step: HedgedStep) => number;
})[] = [
  { name: 'hedged', color: 'ink', width: 2.4, dash: 'solid', of: ({ profit }) => profit },
  { name: 'not hedged', color: 'soft', width: 1.4, dash: 'dash', of: ({ unhedged }) => unhedged },
  { name: 'gamma less theta', color: 'realized', width: 1.4, dash: 'dot', of: ({ gamma, theta }) => gamma + theta },
  { name: 'vega', color: 'implied', width: 1.4, dash: 'dot', of: ({ vega }) => vega },
];

/** {@link LINES} along the moments. @param times the multiplier */
export function hedgedFigure({ steps }: HedgedHistory, times: number, tokens: Tokens, zone: string): Figure {
  const figure = linesFigure(
    { x: steps.map(({ instant }) => instant), xName: 'moment', xText: (value) => momentDay(value, zone) },
    LINES.map(({ of, color, ...line }) => ({
      ...line,
      color: tokens[color],
      y: steps.map((step) => of(step) * times),
    })),
    { tokens, digits: 0 },
  );
  figure.layout.xaxis = { ...figure.layout.xaxis, type: 'date', tickformat: '%-d %b', nticks: 6 };
  figure.layout.margin = { ...figure.layout.margin, l: 56 };
  return figure;
}
