import type { Law } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { figures } from '$lib/formats';
import { type LawName, type PriceAxis } from '../params';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import { baseAxis, baseLayout, type Figure } from '$lib/charts/figure';

/** Room around the plot, in pixels: what lies over it is placed by them. */
export const LAWS_MARGIN = { l: 40, r: 12, t: 8, b: 22 } as const;
const POINTS = 181;
/** How far the picture reaches, in deviations. */
const REACH = 3.2;
/** How much higher than the market's density another density may extend the axis. */
const MOST_OTHER = 1.6;

export interface LawsInput {
  laws: readonly { name: LawName; law: Law | null }[];
  forward: number;
  /** Of the price that returns are counted from. */
  price: number;
  deviation: number;
  isUnder: boolean;
  axis: PriceAxis;
  tokens: Tokens;
}

/** How a law is drawn, everywhere. */
export function lawStyle(name: LawName, tokens: Tokens): { color: string; dash: 'solid' | 'dash' | 'dot' | 'dashdot' } {
  const depth = (at: number) => tokens.depths[at]!;
  return {
    curve: { color: tokens.implied, dash: 'solid' as const },
    own: { color: tokens.ink, dash: 'dot' as const },
    level: { color: tokens.faint, dash: 'dot' as const },
    index: { color: depth(3), dash: 'dashdot' as const },
    realized: { color: tokens.realized, dash: 'dash' as const },
    manual: { color: tokens.loss, dash: 'dashdot' as const },
    past: { color: depth(0), dash: 'dash' as const },
  }[name];
}

/** The ends of the axis of prices. */
export function lawsRange({ forward, deviation }: Pick<LawsInput, 'forward' | 'deviation'>): [number, number] {
  const reach = Math.min(2.5, REACH * deviation);
  return [forward * Math.exp(-reach), forward * Math.exp(reach)];
}

/**
 * Densities over each other in per cent for each per cent of the forward, or what lies under, by price or by return. Zones are
 * laid over it: its axes do not move.
 */
export function lawsFigure(input: LawsInput): Figure {
  const { laws, forward, price, isUnder, axis, tokens } = input;
  const [low, high] = lawsRange(input);
  const k = Array.from(
    { length: POINTS },
    (_, i) => Math.log(low / forward) + (i / (POINTS - 1)) * Math.log(high / low),
  );
  const prices = k.map((x) => forward * Math.exp(x));
  const x = axis === 'price' ? prices : prices.map((one) => 100 * (one / price - 1));
  const known = laws.flatMap(({ name, law }) =>
    law ? [{ name, y: k.map((at) => (isUnder ? 100 * law.under(at) : law.density(at))) }] : [],
  );
  const peak = (name: LawName) =>
    Math.max(0, ...(known.find((one) => one.name === name)?.y ?? []).filter(Number.isFinite));
  const market = peak('curve') || peak('level') || Math.max(...known.map(({ name }) => peak(name)), 0);
  const most = Math.min(Math.max(...known.map(({ name }) => peak(name)), 0), MOST_OTHER * market);
  const data = known.map(({ name, y }): Data => {
    const { color, dash } = lawStyle(name, tokens);
    return {
      type: 'scatter',
      mode: 'lines',
      x,
      y,
      name,
      line: { color, dash, width: name === 'curve' ? 2.2 : 1.5 },
      hovertemplate: `${name}: %{y:.2f} at %{x:${axis === 'price' ? '.6~g' : '.2f'}}${axis === 'price' ? '' : ' %'}<extra></extra>`,
    };
  });
  const middle = axis === 'price' ? forward : 100 * (forward / price - 1);
  return {
    data: data.toReversed(),
    layout: {
      ...baseLayout(tokens),
      margin: { ...LAWS_MARGIN },
      dragmode: false,
      xaxis: {
        ...baseAxis(tokens),
        range: [x[0]!, x.at(-1)!],
        fixedrange: true,
        tickformat: '~f',
        ...(axis === 'return' && { ticksuffix: ' %' }),
      },
      yaxis: {
        ...baseAxis(tokens),
        range: isUnder ? [0, 100] : [0, 1.06 * most || 1],
        fixedrange: true,
        tickformat: isUnder ? '.0f' : '.1f',
        ...(isUnder && { ticksuffix: ' %' }),
      },
      shapes: [
        {
          type: 'line',
          x0: middle,
          x1: middle,
          yref: 'paper',
          y0: 0,
          y1: 1,
          line: { color: tokens.faint, width: 1, dash: 'dot' },
        },
      ] as Layout['shapes'],
    },
    table: () => lawsTable(prices, k, laws),
  };
}

function lawsTable(prices: readonly number[], k: readonly number[], laws: LawsInput['laws']): DataTable {
  const known = laws.flatMap(({ name, law }) => (law ? [{ name, law }] : []));
  const fixed = (value: number) => figures.fixed(value, 4);
  return {
    columns: [
      ...numberColumns(['price'], (value) => figures.fixed(value, 2)),
      ...numberColumns(
        known.flatMap(({ name }) => [name, `${name}_under`]),
        fixed,
      ),
    ],
    rows: prices.map((price, i) => [price, ...known.flatMap(({ law }) => [law.density(k[i]!), law.under(k[i]!)])]),
  };
}
