import type { Data } from 'plotly.js';
import type { Band } from '$lib/film';
import type { Tokens } from '$lib/ui/theme.svelte';
import type { MovingArea } from '$lib/charts/moving';

/** The outer and the inner pair of a band's rows, and how dark each is. */
const PAIRS = [
  { low: 0, high: 4, opacity: 0.1, name: '5 to 95 %' },
  { low: 1, high: 3, opacity: 0.16, name: '25 to 75 %' },
] as const;
const MEDIAN = 2;

/** Where a band has values. */
function held({ rows }: Band): number[] {
  return [...(rows[MEDIAN] ?? [])].flatMap((value, i) => (Number.isFinite(value) ? [i] : []));
}

/**
 * A band as filled traces, its middle a thin line.
 *
 * @param x its places on the axis
 * @param y from its values to the axis
 */
export function bandTraces(
  band: Band,
  x: readonly number[],
  y: (value: number, i: number) => number,
  tokens: Tokens,
): Data[] {
  const at = held(band);
  const places = at.map((i) => x[i]!);
  const line = (row: number) => at.map((i) => y(band.rows[row]![i]!, i));
  const areas = PAIRS.map(({ low, high, opacity }): Data => ({
    type: 'scatter',
    mode: 'lines',
    x: [...places, ...places.toReversed()],
    y: [...line(high), ...line(low).toReversed()],
    fill: 'toself',
    fillcolor: `${tokens.implied}${Math.round(255 * opacity).toString(16)}`,
    line: { width: 0 },
    hoverinfo: 'skip',
  }));
  return [
    ...areas,
    {
      type: 'scatter',
      mode: 'lines',
      x: places,
      y: line(MEDIAN),
      line: { color: tokens.implied, width: 0.8, dash: 'dot' },
      hoverinfo: 'skip',
    },
  ];
}

/** A band as areas that move. */
export function bandAreas(
  band: Band,
  x: readonly number[],
  y: (value: number, i: number) => number,
  tokens: Tokens,
): MovingArea[] {
  const at = held(band);
  const line = (row: number) => at.map((i) => y(band.rows[row]![i]!, i));
  return PAIRS.map(({ low, high, opacity }) => ({
    x: at.map((i) => x[i]!),
    low: line(low),
    high: line(high),
    color: tokens.implied,
    opacity,
  }));
}
