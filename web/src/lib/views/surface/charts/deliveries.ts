import { MILLISECONDS_PER_DAY, termState } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import { figures, shortDay, type Sentence } from '$lib/formats';
import type { UniverseRow } from '$lib/data/api';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { depthColor } from '$lib/charts/depth';
import { baseAxis, baseLayout, type Figure, type HeldRange } from '$lib/charts/figure';
import type { Moving } from '$lib/charts/moving';

/** A delivery of a future at a moment. */
export interface Delivery {
  symbol: string;
  expires: string;
  days: number;
  price: number;
  /** 30-day vol, a decimal; NaN where it has none. */
  vol: number;
}

/** The deliveries of a root that are still to come at a moment, by time, with a price. */
export function deliveriesOf(rows: readonly UniverseRow[], root: string, instant: number): Delivery[] {
  return rows
    .flatMap(({ symbol, root: own, expires, price, iv30 }) => {
      if (own !== root || expires === null || price === null) return [];
      const days = (Date.parse(`${expires}T12:00:00Z`) - instant) / MILLISECONDS_PER_DAY;
      return days > 0 ? [{ symbol, expires, days, price, vol: iv30 ?? NaN }] : [];
    })
    .sort((a, b) => a.days - b.days);
}

/** Share of the first price under which a price curve is flat. */
const FLAT = 0.005;

/** Whether later deliveries cost more. */
export function priceState(deliveries: readonly Delivery[]): 'contango' | 'backwardation' | 'flat' {
  const [first, last] = [deliveries[0], deliveries.at(-1)];
  if (!first || !last) return 'flat';
  const rise = last.price / first.price - 1;
  if (Math.abs(rise) <= FLAT) return 'flat';
  return rise > 0 ? 'contango' : 'backwardation';
}

const priceOf = ({ price }: Delivery) => price;
const pointsOf = ({ vol }: Delivery) => 100 * vol;

/** Lets the axes reach as far as deliveries of other moments do. */
export function holdDeliveries({ ranges, root }: Pick<DeliveriesInput, 'ranges' | 'root'>, all: readonly Delivery[]) {
  return {
    days: ranges.days.of(root, [0, ...all.map(({ days }) => days)], 0.06)[1],
    y: ranges.x.of(root, all.map(priceOf), 0.12),
    y2: ranges.y.of(root, all.map(pointsOf).filter(Number.isFinite), 0.12),
  };
}

/** Prices and vols of deliveries as they move. */
export function deliveriesMoving(deliveries: readonly Delivery[], ghost: readonly Delivery[], tokens: Tokens): Moving {
  const lines = (held: readonly Delivery[], isGhost: boolean) =>
    [priceOf, pointsOf].map((read, i) => ({
      x: held.map(({ days }) => days),
      y: held.map(read),
      color: isGhost ? tokens.faint : [tokens.ink, tokens.implied][i]!,
      width: isGhost ? 1.3 : 1.6,
      isDashed: isGhost,
      isBeside: i === 1,
      ...(isGhost ? {} : { dots: 3.5, dotColors: held.map(({ days }) => depthColor(days, tokens)) }),
    }));
  return { lines: [...lines(ghost, true), ...lines(deliveries, false)] };
}

export interface DeliveriesInput {
  deliveries: readonly Delivery[];
  ghost: readonly Delivery[];
  root: string;
  symbol: string;
  decimals: number;
  tokens: Tokens;
  /** Of the prices, the vols and the days. */
  ranges: { x: HeldRange; y: HeldRange; days: HeldRange };
}

/** Prices of the deliveries at the left, their vols at the right. */
export function deliveriesFigure({
  deliveries,
  ghost,
  root,
  symbol,
  decimals,
  tokens,
  ranges,
}: DeliveriesInput): Figure {
  const line = (held: readonly Delivery[], read: (one: Delivery) => number, axis: '' | '2', isGhost: boolean): Data =>
    ({
      type: 'scatter',
      mode: isGhost ? 'lines' : 'lines+markers',
      x: held.map(({ days }) => days),
      y: held.map(read),
      ...(axis ? { xaxis: 'x2', yaxis: 'y2' } : {}),
      line: isGhost
        ? { color: tokens.faint, width: 1.3, dash: 'dash' }
        : { color: axis ? tokens.implied : tokens.ink, width: 1.6 },
      ...(isGhost
        ? { hoverinfo: 'skip' }
        : {
            customdata: held.map((one) => [one.symbol]),
            text: held.map(
              (one) =>
                `${one.symbol} · ${shortDay(one.expires)}<br>${axis ? `iv30 ${figures.vol(one.vol, 2)} %` : `price ${figures.fixed(one.price, decimals)}`}`,
            ),
            hovertemplate: '%{text}<extra></extra>',
            marker: {
              size: held.map((one) => (one.symbol === symbol ? 10 : 7)),
              color: held.map(({ days }) => depthColor(days, tokens)),
              line: {
                color: held.map((one) => (one.symbol === symbol ? tokens.focus : tokens.panel)),
                width: held.map((one) => (one.symbol === symbol ? 2.5 : 1)),
              },
            },
          }),
    }) as Data;
  const { days: reach, y, y2 } = holdDeliveries({ ranges, root }, [...deliveries, ...ghost]);
  const xaxis = (domain: [number, number], anchor: 'y' | 'y2'): Partial<Layout['xaxis']> => ({
    ...baseAxis(tokens),
    domain,
    anchor,
    range: [0, reach],
    tickformat: '~f',
    nticks: 5,
  });
  return {
    data: [
      line(ghost, priceOf, '', true),
      line(deliveries, priceOf, '', false),
      line(ghost, pointsOf, '2', true),
      line(deliveries, pointsOf, '2', false),
    ],
    layout: {
      ...baseLayout(tokens),
      margin: { l: 44, r: 10, t: 8, b: 24 },
      xaxis: xaxis([0, 0.42], 'y'),
      xaxis2: xaxis([0.58, 1], 'y2'),
      yaxis: { ...baseAxis(tokens), range: y, tickformat: '~g' },
      yaxis2: {
        ...baseAxis(tokens),
        anchor: 'x2',
        range: y2,
        tickformat: '~f',
      },
    },
    table: () => ({
      columns: [
        { name: 'symbol', type: 'text' },
        { name: 'expires', type: 'day' },
        ...numberColumns(['days'], figures.days),
        ...numberColumns(['price'], (value) => figures.fixed(value, decimals)),
        ...numberColumns(['iv30'], (value) => figures.vol(value, 2)),
      ],
      rows: deliveries.map(({ symbol: name, expires, days, price: value, vol: held }) => [
        name,
        expires,
        days,
        value,
        held,
      ]),
    }),
  };
}

/** Which way prices and vols go with the deliveries. */
export function deliveriesSentence(deliveries: readonly Delivery[]): Sentence {
  const [first, last] = [deliveries[0], deliveries.at(-1)];
  if (!first || !last || first === last)
    return { lead: 'One delivery only.', rest: 'There is nothing to compare it with.' };
  const prices = `Prices in ${priceState(deliveries)}:`.replace('in flat', 'are flat');
  const rise = figures.percentChange(last.price / first.price - 1, 1);
  const vols = deliveries.filter(({ vol }) => Number.isFinite(vol));
  const [near, far] = [vols[0], vols.at(-1)];
  const slope = near && far && near !== far ? far.vol - near.vol : NaN;
  const volWords = Number.isFinite(slope)
    ? ` Their vols ${termState(slope) === 'flat' ? 'are flat' : `are in ${termState(slope)}`}, ${figures.vol(near!.vol)} to ${figures.vol(far!.vol)}.`
    : '';
  return { lead: prices, rest: `${last.symbol} stands ${rise} against ${first.symbol}.${volWords}` };
}
