import type { ProfitCurveColumns } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import type { Figure } from '$lib/charts/figure';
import type { Moving } from '$lib/charts/moving';
import { figures } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import type { Quantity } from '../params';
import { alongOther, grounds, linesFigure, rule, type Line } from '$lib/charts/lines';

/** Now, a third and two thirds of the way, at the horizon, or where the scenario is. */
export const ROLES = ['now', 'third', 'two-thirds', 'horizon', 'scenario'] as const;
export type CurveRole = (typeof ROLES)[number];

const DEPTHS = { now: 0, third: 2, 'two-thirds': 4, horizon: 6 } as const;
const WIDTHS: Record<CurveRole, number> = { now: 1.6, third: 1.6, 'two-thirds': 1.6, horizon: 2.6, scenario: 2 };

/** The colour of a curve: the later, the deeper. */
export function curveColor(role: CurveRole, tokens: Tokens): string {
  return role === 'scenario' ? tokens.ink : tokens.depths[DEPTHS[role]]!;
}

/** A curve with what it is called. */
export interface NamedCurve {
  name: string;
  columns: ProfitCurveColumns;
  role: CurveRole;
}

/** What all pictures of a structure have in common. */
export interface Drawn {
  /** Prices, or shifts of vol, ascending. */
  x: Float64Array;
  curves: readonly NamedCurve[];
  quantity: Quantity;
  /** Times what amounts of a unit are drawn. */
  times: number;
  /** Decimals of amounts. */
  digits: number;
  /** Decimals of prices. */
  decimals: number;
  tokens: Tokens;
}

export interface ProfileInput extends Drawn {
  /** As it is, and in the scenario. */
  spot: number;
  price: number;
  breakEvens: readonly number[];
  /** On the date of the scenario, and where they have been. */
  evens: readonly number[];
  trace: readonly number[];
  strikes: readonly number[];
  /** Another structure that stands beside: along its own prices. */
  before?: { x: Float64Array; curves: readonly NamedCurve[] } | null;
}

/** Decimals of Greeks of a whole structure. */
const GREEK_DIGITS = 3;
const BEFORE_WIDTH = 1.2;

export function columnOf(columns: ProfitCurveColumns, quantity: Quantity): Float64Array {
  return columns[quantity === 'profit' ? 'pnl' : quantity];
}

export const digitsOf = ({ quantity, digits }: Pick<Drawn, 'quantity' | 'digits'>) =>
  quantity === 'profit' ? digits : GREEK_DIGITS;

/** The curves of a picture as lines. */
export function linesOf({ curves, quantity, times, tokens }: Drawn): Line[] {
  return curves.map(({ name, columns, role }) => ({
    name,
    y: Array.from(columnOf(columns, quantity), (value) => value * times),
    color: curveColor(role, tokens),
    width: WIDTHS[role],
    dash: role === 'scenario' ? 'dot' : 'solid',
  }));
}

const LOSS_OPACITY = 0.12;
const TRACE_DOT = 2;
const EVEN_DOT = 4;

/** Break-evens of the scenario's date as dots over nothing, with the way that they came. */
function dotsOf({ quantity, evens, trace, tokens }: ProfileInput): { x: number[]; color: string; radius: number }[] {
  if (quantity !== 'profit') return [];
  return [
    { x: [...trace], color: tokens.soft, radius: TRACE_DOT },
    { x: [...evens], color: tokens.ink, radius: EVEN_DOT },
  ];
}

/** What stands beside, along the prices of what is in hand. */
function besideOf(input: ProfileInput, x: readonly number[]): Line[] {
  const { before } = input;
  if (!before) return [];
  return linesOf({ ...input, ...before }).map((line): Line => ({
    ...line,
    ...{ name: `${line.name}, beside`, y: alongOther(x, before.x, line.y), width: BEFORE_WIDTH, dash: 'dash' },
  }));
}

/** The profile while a hand moves it: the same as {@link profileFigure} draws, over axes that hold still. */
export function profileMoving(input: ProfileInput): Moving {
  const { quantity, price, breakEvens, strikes, decimals, tokens } = input;
  const x = Array.from(input.x);
  const lines = linesOf(input);
  const last = lines[input.curves.findIndex(({ role }) => role === 'horizon')];
  const nothing = x.map(() => 0);
  const areas =
    quantity === 'profit' && last
      ? [
          { x, low: nothing, high: last.y.map((value) => Math.max(0, value)), color: tokens.band, opacity: 1 },
          {
            x,
            low: last.y.map((value) => Math.min(0, value)),
            high: nothing,
            color: tokens.loss,
            opacity: LOSS_OPACITY,
          },
        ]
      : [];
  return {
    areas,
    lines: [
      ...[...besideOf(input, x), ...lines].map(({ y, color, width, dash }) => ({
        ...{ x, y, color, width, isDashed: dash !== 'solid' },
      })),
      ...dotsOf(input).map(({ x: places, color, radius }) => ({
        ...{ x: places, y: places.map(() => 0), color, width: 0, dots: radius },
      })),
    ],
    uprights: [
      ...strikes.map((strike) => ({ x: strike, color: tokens.line })),
      ...breakEvens.map((level) => ({ x: level, color: tokens.ink, text: figures.fixed(level, decimals) })),
      ...(input.spot === price ? [] : [{ x: input.spot, color: tokens.line }]),
      { x: price, color: tokens.focus },
    ],
  };
}

/** Profit or a Greek along the price, a curve for each date; gains lie on a plain ground, losses on a hatched one. */
export function profileFigure(input: ProfileInput): Figure {
  const { quantity, price, breakEvens, strikes, decimals, tokens } = input;
  const x = Array.from(input.x);
  const lines = linesOf(input);
  const last = lines[input.curves.findIndex(({ role }) => role === 'horizon')];
  return linesFigure(
    { x, xName: 'price', xText: (value) => figures.fixed(value, decimals) },
    [...besideOf(input, x), ...lines],
    {
      ...{ tokens, digits: digitsOf(input) },
      below: quantity === 'profit' && last ? grounds(x, last.y, tokens) : [],
      above: dotsOf(input).map(
        ({ x: places, color, radius }) =>
          ({
            ...{ type: 'scatter', mode: 'markers', x: places, y: places.map(() => 0), hoverinfo: 'skip' },
            marker: { color, size: 2 * radius },
          }) as Data,
      ),
      shapes: [
        ...strikes.map((strike) => rule(strike, tokens.line, 'dot', 1)),
        ...breakEvens.map((level) => rule(level, tokens.ink, 'dash', 1.2)),
        ...(input.spot === price ? [] : [rule(input.spot, tokens.focus, 'dot', 1)]),
        rule(price, tokens.focus, 'solid', 1.2),
      ],
      annotations: breakEvens.map((level): Partial<Layout['annotations'][number]> => ({
        ...{ x: level, y: 0, yanchor: 'bottom', xanchor: 'left', xshift: 3, showarrow: false },
        ...{ text: figures.fixed(level, decimals), font: { color: tokens.ink, size: 11 } },
      })),
    },
  );
}
