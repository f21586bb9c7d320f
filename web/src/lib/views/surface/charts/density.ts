import { curveLaw, drawPaths, lognormalLaw, sampleLaw, expiryName } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import type { CurveExpiry } from '$lib/film';
import { figures, shortExpiry, type Sentence } from '$lib/formats';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import { baseAxis, baseLayout, HeldRange, type Figure } from '$lib/charts/figure';
import type { Moving } from '$lib/charts/moving';

/** An expiry as its laws are computed. */
export type DensityExpiry = Pick<
  CurveExpiry,
  'expiry' | 'settlement' | 'years' | 'sessions' | 'forward' | 'curve' | 'atmVol'
>;

/** What the market and the past say of where the price ends. */
export interface DensityInput {
  expiry: DensityExpiry;
  isCumulative: boolean;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

const POINTS = 161;
/** How far the picture reaches, in deviations. */
const REACH = 3.5;
/** How much higher than the market's density that of the past may extend the axis. */
const MOST_PAST = 1.8;

/** The three laws at log-moneynesses: densities of the logarithm, and what lies under. */
export interface Laws {
  k: number[];
  curve: number[];
  lognormal: number[];
  past: number[] | null;
  curveUnder: number[];
  lognormalUnder: number[];
  pastUnder: number[] | null;
  moves: number;
}

/** The laws of an expiry in view; null without a curve. */
export function lawsOfExpiry({ curve, atmVol, years, sessions }: DensityExpiry, close: Float64Array): Laws | null {
  if (!curve || !(years > 0)) return null;
  const deviation = atmVol * Math.sqrt(years);
  const k = Array.from({ length: POINTS }, (_, i) => REACH * deviation * ((2 * i) / (POINTS - 1) - 1));
  const market = curveLaw(curve);
  const flat = lognormalLaw(deviation);
  const bars = { close, high: close, low: close };
  const sample = drawPaths(bars, { sessions, start: 0, sampling: 'stretches', drift: 'forward' });
  const past = sample && sampleLaw(sample.ends, sample.ends.length / sessions);
  return {
    k,
    curve: k.map(market.density),
    lognormal: k.map(flat.density),
    past: past && k.map(past.density),
    curveUnder: k.map(market.under),
    lognormalUnder: k.map(flat.under),
    pastUnder: past && k.map(past.under),
    moves: sample?.ends.length ?? 0,
  };
}

/** The curve's, the lognormal's and the past's, as they stand upright. */
function heightsOf(laws: Laws, isCumulative: boolean): [number[], number[], number[] | null] {
  if (!isCumulative) return [laws.curve, laws.lognormal, laws.past];
  const percent = (values: number[]) => values.map((value) => 100 * value);
  return [percent(laws.curveUnder), percent(laws.lognormalUnder), laws.pastUnder && percent(laws.pastUnder)];
}

/** What the held ranges of the density are for. */
const keyOf = ({ expiry, isCumulative }: Pick<DensityInput, 'expiry' | 'isCumulative'>) =>
  `${expiryName(expiry)} ${isCumulative}`;

/** How much higher than a lognormal's peak the market's density stands at most, as a rule. */
const PEAK = 1.5;

/** Lets the axes reach as far as the laws of other moments do. */
export function holdDensity(input: DensityInput, others: readonly DensityExpiry[]): void {
  const held = others.filter(({ atmVol, years }) => atmVol > 0 && years > 0);
  const deviations = held.map(({ atmVol, years }) => atmVol * Math.sqrt(years));
  const ends = held.flatMap(({ forward }, i) => [-1, 1].map((way) => forward * Math.exp(way * REACH * deviations[i]!)));
  input.ranges.x.of(keyOf(input), ends, 0);
  if (!input.isCumulative)
    input.ranges.y.of(keyOf(input), [0, ...deviations.map((deviation) => (PEAK * INV_SQRT_2PI) / deviation)]);
}

const INV_SQRT_2PI = 1 / Math.sqrt(2 * Math.PI);

/** The laws as they move on held axes. */
export function densityMoving({ forward }: DensityExpiry, laws: Laws, isCumulative: boolean, tokens: Tokens): Moving {
  const x = laws.k.map((k) => forward * Math.exp(k));
  const [curve, lognormal, past] = heightsOf(laws, isCumulative);
  return {
    lines: [
      ...(past ? [{ x, y: past, color: tokens.realized, width: 1.5, isDashed: true }] : []),
      { x, y: lognormal, color: tokens.faint, width: 1.3, isDashed: true },
      { x, y: curve, color: tokens.implied, width: 2.2 },
    ],
    uprights: [{ x: forward, color: tokens.ink }],
  };
}

/** Densities over each other on the price axis, in per cent for each per cent of the forward; or what lies under. */
export function densityFigure(input: DensityInput, laws: Laws): Figure {
  const { expiry, isCumulative, tokens, ranges } = input;
  const { forward } = expiry;
  const price = laws.k.map((k) => forward * Math.exp(k));
  const [curve, lognormal, past] = heightsOf(laws, isCumulative);
  const line = (y: number[], color: string, width: number, dash: 'solid' | 'dot' | 'dash', name: string): Data => ({
    type: 'scatter',
    mode: 'lines',
    x: price,
    y,
    line: { color, width, dash },
    hovertemplate: `${name} %{y:.2f} at %{x:.6~g}<extra></extra>`,
  });
  const data: Data[] = [
    ...(past ? [line(past, tokens.realized, 1.5, 'dash', 'past')] : []),
    line(lognormal!, tokens.faint, 1.3, 'dot', 'lognormal'),
    line(curve!, tokens.implied, 2.2, 'solid', 'curve'),
  ];
  const key = keyOf(input);
  // A past that hardly moved stands high and narrow: it may run out of the picture, the market must stay readable.
  const pastHeight = Math.min(Math.max(0, ...(past ?? [])), MOST_PAST * Math.max(...curve!));
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      margin: { l: 38, r: 10, t: 6, b: 22 },
      xaxis: { ...baseAxis(tokens), range: ranges.x.of(key, price, 0), tickformat: '~f' },
      yaxis: {
        ...baseAxis(tokens),
        range: isCumulative ? [0, 100] : ranges.y.of(key, [0, ...curve!, ...lognormal!, pastHeight]),
        tickformat: isCumulative ? '.0f' : '.1f',
      },
      shapes: [
        {
          type: 'line',
          x0: forward,
          x1: forward,
          yref: 'paper',
          y0: 0,
          y1: 1,
          line: { color: tokens.ink, width: 1.2, dash: 'dot' },
        },
      ] as Layout['shapes'],
    },
    table: () => densityTable(laws, forward),
  };
}

function densityTable(laws: Laws, forward: number): DataTable {
  const names = ['curve', 'lognormal', 'past', 'curve_under', 'lognormal_under', 'past_under'];
  const fixed = (value: number) => figures.fixed(value, 4);
  return {
    columns: [...numberColumns(['price'], (value) => figures.fixed(value, 2)), ...numberColumns(names, fixed)],
    rows: laws.k.map((k, i) => [
      forward * Math.exp(k),
      laws.curve[i]!,
      laws.lognormal[i]!,
      laws.past?.[i] ?? NaN,
      laws.curveUnder[i]!,
      laws.lognormalUnder[i]!,
      laws.pastUnder?.[i] ?? NaN,
    ]),
  };
}

/** Where one deviation below and above stand in the grid of the laws. */
const EDGES = [-1, 1].map((z) => Math.round(((z / REACH + 1) / 2) * (POINTS - 1))) as [number, number];
/** Odds that differ by less are called alike. */
const ALIKE = 0.02;

/** Where the market pays more for a region than the past gave. */
export function densitySentence(laws: Laws, fit: Pick<DensityExpiry, 'expiry' | 'settlement' | 'sessions'>): Sentence {
  const [low, high] = EDGES;
  const zones = (under: number[]) => [
    { name: 'falls of more than a deviation', odds: under[low]! },
    { name: 'what lies within a deviation', odds: under[high]! - under[low]! },
    { name: 'rises of more than a deviation', odds: 1 - under[high]! },
  ];
  const market = zones(laws.curveUnder);
  const what = shortExpiry(fit);
  if (!laws.pastUnder) {
    const [fall, , rise] = market;
    return {
      lead: `${what}: ${figures.percent(fall!.odds, 0)} under one deviation, ${figures.percent(rise!.odds, 0)} over it.`,
      rest: `Too few closes are held for moves of ${figures.counted(fit.sessions, 'session')}.`,
    };
  }
  const past = zones(laws.pastUnder);
  const apart = market.map(({ name, odds }, i) => ({ name, odds, was: past[i]!.odds }));
  const most = apart.reduce((a, b) => (b.odds - b.was > a.odds - a.was ? b : a));
  const base = `${figures.counted(laws.moves, 'overlapping move')} of ${figures.counted(fit.sessions, 'session')}, recentred on the forward`;
  if (most.odds - most.was < ALIKE)
    return { lead: `${what}: the market pays for what the past gave.`, rest: `By ${base}.` };
  return {
    lead: `${what}: the market pays most for ${most.name}.`,
    rest: `${figures.percent(most.odds, 0)} on the curve, ${figures.percent(most.was, 0)} of ${base}.`,
  };
}
