import { escrowOf, expiryInstant, expiryTerms, writtenOn, type Calendar } from '@umwelt/core';
import type { Data } from 'plotly.js';
import { baseAxis, baseLayout, MONO, type Figure } from '$lib/charts/figure';
import { depthColor } from '$lib/charts/depth';
import { figures, shortDay } from '$lib/formats';
import type { MarketEvent } from '$lib/data/api';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import type { LoadedSnapshot } from '$lib/data/snapshot';
import { knownDividends } from '$lib/data/events';

/** What the forward of an expiry says of holding the underlying until then. */
export interface CarryPoint {
  expiry: string;
  days: number;
  forward: number;
  rate: number;
  /** Yield that leads from the price to the forward. */
  impliedYield: number;
  /** What is left of it when known cash dividends are taken out: borrow, or dividends that are not known. */
  borrow: number;
  /** What the quotes leave open of either. */
  uncertainty: number;
}

/** Implied yields by expiry, from forwards by parity; a future has none. */
export function carryPoints(
  snapshot: LoadedSnapshot,
  events: readonly MarketEvent[],
  calendar: Calendar,
): CarryPoint[] {
  if (snapshot.kind === 'future') return [];
  const on = writtenOn(snapshot, snapshot);
  return snapshot.slices.flatMap(({ expiry, settlement, fit }) => {
    const { forward, years, rate, forwardSource, forwardUncertainty, days } = fit;
    if (forwardSource !== 'parity' || !(years > 0 && forward > 0 && snapshot.price > 0)) return [];
    const life = { valued: snapshot.instant, expires: expiryInstant(calendar, expiry, settlement) };
    const stripped = snapshot.price - escrowOf({ dividends: knownDividends(events, life, calendar), years, rate })(0);
    const borrow = rate - Math.log(forward / stripped) / years;
    const uncertainty = forwardUncertainty / forward / years;
    return [{ expiry, days, forward, rate, impliedYield: expiryTerms(on, fit).yield, borrow, uncertainty }];
  });
}

/** The implied yields as a curve over the days, with what the quotes leave open. */
export function carryFigure(points: readonly CarryPoint[], tokens: Tokens): Figure {
  const hasDividends = points.some(({ impliedYield, borrow }) => Math.abs(impliedYield - borrow) > 1e-6);
  const x = points.map(({ days }) => days);
  const curve = (name: string, values: number[], dash: 'solid' | 'dash', color: string): Data => ({
    type: 'scatter',
    mode: 'lines+markers',
    x,
    y: values.map((value) => 100 * value),
    name,
    text: points.map(
      ({ expiry, uncertainty }, i) =>
        `${shortDay(expiry)}<br>${name} ${figures.percent(values[i], 2)} ± ${figures.percent(uncertainty, 2)}`,
    ),
    hovertemplate: '%{text}<extra></extra>',
    line: { color, width: 1.8, dash },
    marker: { size: 8, color: points.map(({ days }) => depthColor(days, tokens)) },
    error_y: {
      type: 'data',
      array: points.map(({ uncertainty }) => 100 * uncertainty),
      visible: true,
      color: tokens.faint,
      thickness: 1,
      width: 3,
    } as never,
  });
  const rates: Data = {
    type: 'scatter',
    mode: 'lines',
    x,
    y: points.map(({ rate }) => 100 * rate),
    name: 'rate',
    hovertemplate: 'rate %{y:.2f} %<extra></extra>',
    line: { color: tokens.faint, width: 1.2, dash: 'dot' },
  };
  return {
    data: [
      rates,
      curve(
        'implied yield',
        points.map(({ impliedYield }) => impliedYield),
        'solid',
        tokens.implied,
      ),
      ...(hasDividends
        ? [
            curve(
              'less known dividends',
              points.map(({ borrow }) => borrow),
              'dash',
              tokens.realized,
            ),
          ]
        : []),
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 46, r: 12, t: 24, b: 38 },
      showlegend: true,
      legend: {
        orientation: 'h',
        x: 0,
        y: 1.12,
        font: { family: MONO, size: 11, color: tokens.soft },
        bgcolor: 'rgba(0,0,0,0)',
      },
      xaxis: { ...baseAxis(tokens), title: { text: 'days to expiry', standoff: 6, font: { family: MONO, size: 11 } } },
      yaxis: { ...baseAxis(tokens), ticksuffix: ' %', tickformat: '~g', zeroline: true, zerolinecolor: tokens.soft },
    },
    table: () => ({
      columns: [
        { name: 'expiry', type: 'day' },
        ...numberColumns(['days'], figures.days),
        ...numberColumns(['forward'], (value) => figures.fixed(value, 4)),
        ...numberColumns(['rate', 'implied_yield', 'less_known_dividends', 'uncertainty'], (value) =>
          figures.percent(value, 3),
        ),
      ],
      rows: points.map(({ expiry, days, forward, rate, impliedYield, borrow, uncertainty }) => [
        expiry,
        days,
        forward,
        rate,
        impliedYield,
        borrow,
        uncertainty,
      ]),
    }),
  };
}
