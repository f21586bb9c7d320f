import type { ProfitCurveColumns } from '@umwelt/core';
import type { Figure } from '$lib/charts/figure';
import { alongOther, linesFigure, rule, type Line } from '$lib/charts/lines';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';

/** A structure before and after its hedge, along its own prices. */
export interface AheadInput {
  before: { x: Float64Array; curve: ProfitCurveColumns };
  after: { x: Float64Array; curve: ProfitCurveColumns };
  /** After the trades of another hedge; null where none stands beside. */
  other: { x: Float64Array; curve: ProfitCurveColumns } | null;
  quantity: 'pnl' | 'delta';
  times: number;
  price: number;
  /** How far it may be off on either side of its aim; 0 where nothing is said. */
  band: number;
  aim: number;
  /** Prices at which it leaves the band. */
  due: readonly number[];
  /** Decimals of prices. */
  decimals: number;
  tokens: Tokens;
}

const WIDTH_AFTER = 2.4;
const WIDTH_BEFORE = 1.4;

/** What is gained, or its delta, along the price: with the hedge, and without it. */
export function aheadFigure(input: AheadInput): Figure {
  const { before, after, other, quantity, times, price, band, aim, due, decimals, tokens } = input;
  const x = Array.from(after.x);
  const scaled = (values: readonly number[]) => values.map((value) => value * times);
  const lines: Line[] = [
    {
      ...{ name: 'before', color: tokens.soft, width: WIDTH_BEFORE, dash: 'dash' },
      y: scaled(alongOther(after.x, before.x, before.curve[quantity])),
    },
    ...(other
      ? [
          {
            ...{ name: 'the other', color: tokens.implied, width: WIDTH_BEFORE, dash: 'solid' as const },
            y: scaled(alongOther(after.x, other.x, other.curve[quantity])),
          },
        ]
      : []),
    { name: 'after', color: tokens.ink, width: WIDTH_AFTER, dash: 'solid', y: scaled([...after.curve[quantity]]) },
  ];
  const figure = linesFigure({ x, xName: 'price', xText: (value) => figures.fixed(value, decimals) }, lines, {
    ...{ tokens, digits: quantity === 'pnl' ? 0 : 1 },
    shapes: [
      ...(band > 0
        ? [
            {
              ...{ type: 'rect' as const, xref: 'paper' as const, x0: 0, x1: 1, y0: aim - band, y1: aim + band },
              ...{ layer: 'below' as const, fillcolor: tokens.band, line: { width: 0 } },
            },
          ]
        : []),
      rule(price, tokens.focus, 'solid', 1.2),
    ],
    annotations: due.map((level) => ({
      ...{ x: level, y: aim, yanchor: 'bottom' as const, showarrow: false },
      // Beside its place, towards the middle: at an end there is no room for all of it.
      xanchor: level > price ? ('right' as const) : ('left' as const),
      ...{ text: `≈ ${figures.fixed(level, 0)}`, font: { color: tokens.ink, size: 11 } },
    })),
  });
  // Two pictures stand beside a table: there is room for few prices.
  figure.layout.margin = { ...figure.layout.margin, l: 56 };
  figure.layout.xaxis = { ...figure.layout.xaxis, nticks: 5 };
  return figure;
}
