import type { ProfitCurveColumns } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { baseAxis, baseLayout, type Figure } from '$lib/charts/figure';
import { figures } from '$lib/formats';
import { numberColumns } from '$lib/tables/data-table';
import type { Tokens } from '$lib/ui/theme.svelte';
import type { Quantity } from '../params';

/** Now, a third and two thirds of the way, at the horizon, or where the scenario is. */
export type CurveRole = 'now' | 'third' | 'two-thirds' | 'horizon' | 'scenario';

const DEPTHS = { now: 0, third: 2, 'two-thirds': 4, horizon: 6 } as const;
const WIDTHS: Record<CurveRole, number> = { now: 1.6, third: 1.6, 'two-thirds': 1.6, horizon: 2.6, scenario: 2 };

/** The colour of a curve: the later, the deeper. */
export function curveColor(role: CurveRole, tokens: Tokens): string {
  return role === 'scenario' ? tokens.ink : tokens.depths[DEPTHS[role]]!;
}

/** A curve along the price, with what it is called. */
export interface NamedCurve {
  name: string;
  columns: ProfitCurveColumns;
  role: CurveRole;
}

export interface ProfileInput {
  /** At which the curves are told, ascending. */
  prices: Float64Array;
  curves: readonly NamedCurve[];
  quantity: Quantity;
  /** Times what amounts of a unit are drawn. */
  times: number;
  /** Decimals of amounts. */
  digits: number;
  price: number;
  breakEvens: readonly number[];
  strikes: readonly number[];
  decimals: number;
  tokens: Tokens;
}

const GREEK_DIGITS = 3;

/** Room beside the plot, which the strips under it keep as well. */
export const MARGIN = { l: 62, r: 14 } as const;

const columnOf = (columns: ProfitCurveColumns, quantity: Quantity) => columns[quantity === 'profit' ? 'pnl' : quantity];

/** Profit or a Greek along the price, a curve for each date; gains lie on a plain ground, losses on a hatched one. */
export function profileFigure(input: ProfileInput): Figure {
  const { prices, curves, quantity, times, digits: ofMoney, price, breakEvens, strikes, decimals, tokens } = input;
  const last = curves.find(({ role }) => role === 'horizon');
  const x = Array.from(prices);
  const amounts = (curve?: NamedCurve) =>
    curve ? Array.from(columnOf(curve.columns, quantity), (value) => value * times) : [];
  const ground = (sign: 1 | -1): Data =>
    ({
      ...{ type: 'scatter', mode: 'none', x, y: amounts(last).map((value) => sign * Math.max(0, sign * value)) },
      ...{ fill: 'tozeroy', hoverinfo: 'skip' },
      fillcolor: sign > 0 ? tokens.band : 'rgba(0,0,0,0)',
      ...(sign < 0 && {
        fillpattern: {
          shape: '/',
          fgcolor: tokens.loss,
          fgopacity: 0.45,
          bgcolor: 'rgba(0,0,0,0)',
          size: 9,
          solidity: 0.12,
        },
      }),
    }) as Data;
  const rule = (at: number, color: string, dash: 'solid' | 'dash' | 'dot', width: number) => ({
    ...{ type: 'line', x0: at, x1: at, yref: 'paper', y0: 0, y1: 1, line: { color, width, dash } },
  });
  const digits = quantity === 'profit' ? ofMoney : GREEK_DIGITS;
  return {
    data: [
      ...(quantity === 'profit' ? [ground(1), ground(-1)] : []),
      ...curves.map((curve) => {
        const { name, role } = curve;
        return {
          ...{ type: 'scatter', mode: 'lines', name, x, y: amounts(curve) },
          line: { color: curveColor(role, tokens), width: WIDTHS[role], dash: role === 'scenario' ? 'dot' : 'solid' },
          hovertemplate: `%{y:,.${digits}f} ${name}<extra></extra>`,
        } as Data;
      }),
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { ...MARGIN, t: 6, b: 22 },
      hovermode: 'x unified',
      xaxis: { ...baseAxis(tokens), range: [x[0] ?? 0, x.at(-1) ?? 1], tickformat: '~f' },
      yaxis: { ...baseAxis(tokens), tickformat: ',~r', zeroline: true, zerolinecolor: tokens.ink, zerolinewidth: 1 },
      shapes: [
        ...strikes.map((strike) => rule(strike, tokens.line, 'dot', 1)),
        ...breakEvens.map((level) => rule(level, tokens.ink, 'dash', 1.2)),
        rule(price, tokens.focus, 'solid', 1.2),
      ] as Layout['shapes'],
      annotations: breakEvens.map((level) => ({
        ...{ x: level, y: 0, yanchor: 'bottom', xanchor: 'left', xshift: 3, showarrow: false },
        ...{ text: figures.fixed(level, decimals), font: { color: tokens.ink, size: 11 } },
      })) as Layout['annotations'],
    },
    table: () => ({
      columns: [
        ...numberColumns(['price'], (value) => figures.fixed(value, decimals)),
        ...numberColumns(
          curves.map(({ name }) => name),
          (value) => figures.fixed(value, digits + 2),
        ),
      ],
      rows: x.map((at, i) => [at, ...curves.map(({ columns }) => columnOf(columns, quantity)[i]! * times)]),
    }),
  };
}
