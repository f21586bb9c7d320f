import {
  constantMaturityVol,
  curveVol,
  expiryClass,
  forwardVol,
  logMoneynessAtDelta,
  MILLISECONDS_PER_DAY,
  type Calendar,
  type ExpiryClass,
  expiryName,
  expiryBefore,
} from '@umwelt/core';
import type { Data, Layout, Shape } from 'plotly.js';
import type { Band, CurveExpiry } from '$lib/film';
import { figures, readingWords, shortExpiry } from '$lib/formats';
import type { TimedEvent } from '$lib/data/events';
import { type TermLayer, type TermReading } from '../params';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { bandAreas, bandTraces } from './band';
import { besideColor, type Beside } from './beside';
import { depthColor } from '$lib/charts/depth';
import { baseAxis, baseLayout, HeldRange, MONO, type Figure } from '$lib/charts/figure';
import type { Moving } from '$lib/charts/moving';

/** An expiry as the term structure takes it. */
export type TermExpiry = Pick<
  CurveExpiry,
  'expiry' | 'settlement' | 'years' | 'days' | 'sessions' | 'curve' | 'atmVol' | 'expiryAside'
>;

export interface TermInput {
  symbol: string;
  instant: number;
  expiries: readonly TermExpiry[];
  ghost: readonly TermExpiry[] | null;
  calendar: Calendar;
  classes: readonly ExpiryClass[];
  reading: TermReading;
  layers: readonly TermLayer[];
  events: readonly TimedEvent[];
  /** Realized vol over so many of the last sessions, a decimal; NaN where too few are held. */
  realizedVol: (sessions: number) => number;
  litExpiry: string | null;
  band: Band | null;
  beside: readonly Beside[];
  /** Whether expiries move under the axis, which then has ticks of its own. */
  isPlaying?: boolean;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

const MOST_EVENTS = 2;
/** Days between labelled expiries, as a ratio: nearer ones would overprint on the logarithmic axis. */
const LABEL_RATIO = 1.32;
/** Labels that a narrow chart has room for. */
const MOST_LABELS = 9;
const FIXED_TICKS = [1, 7, 14, 30, 60, 90, 180, 360];
/** The maturities of the constant-maturity vols, in days. */
const MATURITIES = [7, 30, 60, 90, 180, 360];
const DAYS_PER_YEAR = 365;

/** The expiries of the term structure: those with a curve that are in use, of the classes that are wanted. */
export function termExpiries<T extends TermExpiry>(
  expiries: readonly T[],
  calendar: Calendar,
  classes: readonly ExpiryClass[],
): T[] {
  return expiries.filter(
    ({ curve, expiryAside, days, expiry }) =>
      curve && expiryAside === null && days > 0 && classes.includes(expiryClass(calendar, expiry)),
  );
}

/** The vol of an expiry that a reading means, a decimal. */
export function readVol({ curve, atmVol }: Pick<TermExpiry, 'curve' | 'atmVol'>, reading: TermReading): number {
  if (reading === 'atm') return atmVol;
  if (!curve) return NaN;
  const delta = Number(reading.replace(/\D/g, '')) / 100;
  return curveVol(curve, logMoneynessAtDelta(curve, reading.startsWith('put') ? 1 - delta : delta));
}

/** What a reading is on the inverse pair: a put there is a call here. */
function mirrored(reading: TermReading): TermReading {
  if (reading === 'atm') return reading;
  const delta = Number(reading.replace(/\D/g, ''));
  return reading.startsWith('put') ? `call${delta}` : `put${delta}`;
}

/** Announcements still to come before the last expiry, with the days until them. */
export function comingEvents(
  events: readonly TimedEvent[],
  instant: number,
  lastDays: number,
): { title: string; kind: string; days: number }[] {
  return events.flatMap(({ at, title, kind }) => {
    const days = (at - instant) / MILLISECONDS_PER_DAY;
    return days > 0 && days < lastDays ? [{ title, kind, days }] : [];
  });
}

function labelled(expiries: readonly TermExpiry[]): number[] {
  const labels: number[] = [];
  const span = (expiries.at(-1)?.days ?? 1) / (expiries[0]?.days ?? 1);
  const apart = Math.max(LABEL_RATIO, span ** (1 / MOST_LABELS));
  for (const { days } of expiries) {
    if (labels.length === 0 || days / labels.at(-1)! >= apart) labels.push(days);
  }
  return labels;
}

interface TermLine {
  days: number[];
  /** In vol points. */
  vols: number[];
}

/** Everything that the term structure draws as lines, in days and vol points. */
export interface TermLines {
  expiries: TermExpiry[];
  vols: TermLine;
  ghost: TermLine;
  /** Level between two expiries, with the front's from today on. */
  steps: TermLine;
  maturities: TermLine;
  realized: TermLine;
  /** Of other underlyings. */
  beside: TermLine[];
}

/** What days are from in a picture that cannot show none. */
const FROM_DAYS = 0.5;

function stepsOf(points: readonly { years: number; days: number; vol: number }[]): TermLine {
  const line: TermLine = { days: [], vols: [] };
  points.forEach((far, i) => {
    const near = points[expiryBefore(points, i)];
    const vol = 100 * (near ? forwardVol(near, far) : far.vol);
    line.days.push(near ? near.days : Math.min(FROM_DAYS, far.days), far.days);
    line.vols.push(vol, vol);
  });
  return line;
}

/** The lines of the term structure. */
export function termLines(
  input: Pick<
    TermInput,
    'expiries' | 'ghost' | 'calendar' | 'classes' | 'reading' | 'layers' | 'realizedVol' | 'beside'
  >,
): TermLines {
  const { calendar, classes, reading, layers } = input;
  const pointsOf = (held: readonly TermExpiry[], isMirrored = false) =>
    termExpiries(held, calendar, classes).map((one) => ({
      years: one.years,
      days: one.days,
      vol: readVol(one, isMirrored ? mirrored(reading) : reading),
    }));
  const lineOf = (points: readonly { days: number; vol: number }[]): TermLine => ({
    days: points.map(({ days }) => days),
    vols: points.map(({ vol }) => 100 * vol),
  });
  const none: TermLine = { days: [], vols: [] };
  const expiries = termExpiries(input.expiries, calendar, classes);
  const points = pointsOf(input.expiries);
  const reach = points.at(-1)?.days ?? 0;
  const maturities = MATURITIES.filter((days) => days <= reach).map((days) => ({
    days,
    vol: constantMaturityVol(points, days / DAYS_PER_YEAR),
  }));
  const matched = expiries
    .filter(({ sessions }) => sessions > 1)
    .map(({ days, sessions }) => ({ days, vol: input.realizedVol(sessions) }))
    .filter(({ vol }) => Number.isFinite(vol));
  return {
    expiries,
    vols: lineOf(points),
    ghost: input.ghost ? lineOf(pointsOf(input.ghost)) : none,
    steps: layers.includes('steps') ? stepsOf(points) : none,
    maturities: layers.includes('maturities') ? lineOf(maturities) : none,
    realized: layers.includes('realized') ? lineOf(matched) : none,
    beside: input.beside.map(({ expiries: others, isMirrored }) => lineOf(pointsOf(others, isMirrored))),
  };
}

/** What the held ranges of the term structure are for. */
const keyOf = ({ symbol, classes, reading, layers }: Pick<TermInput, 'symbol' | 'classes' | 'reading' | 'layers'>) =>
  `${symbol} ${classes.join()} ${reading} ${layers.includes('band')}`;

/**
 * Lets the axes reach as far as the lines of other moments do.
 *
 * @param more vols in per cent that have to be in the picture too
 */
export function holdTerm(
  input: Pick<TermInput, 'symbol' | 'classes' | 'reading' | 'layers' | 'ranges'>,
  all: readonly TermLines[],
  more: readonly number[] = [],
) {
  const key = keyOf(input);
  const days = all.flatMap(({ vols }) => vols.days.map(Math.log10));
  const vols = all.flatMap(({ vols: { vols }, ghost, realized, steps, maturities, beside }) => [
    ...beside.flatMap((line) => line.vols),
    ...vols,
    ...ghost.vols,
    ...realized.vols,
    ...steps.vols,
    ...maturities.vols,
  ]);
  const held = [...vols, ...more].filter(Number.isFinite);
  return { x: input.ranges.x.of(key, days, 0.05), y: input.ranges.y.of(key, held, 0.12) };
}

/** The term structure as it moves on held axes. */
export function termMoving(input: TermInput, lines: TermLines): Moving {
  const { tokens, band, litExpiry } = input;
  const line = ({ days, vols }: TermLine, color: string, width: number, isDashed = false) => ({
    x: days,
    y: vols,
    color,
    width,
    isDashed,
  });
  const lit = lines.expiries.findIndex((one) => expiryName(one) === litExpiry);
  return {
    areas: band && input.layers.includes('band') ? bandAreas(band, [...band.at], (vol) => 100 * vol, tokens) : [],
    lines: [
      line(lines.ghost, tokens.faint, 1.4, true),
      line(lines.realized, tokens.realized, 1.6, true),
      line(lines.steps, tokens.soft, 1.2),
      ...lines.beside.map((one, i) => line(one, besideColor(input.beside[i]!.at, tokens), 1.5, true)),
      {
        ...line(lines.vols, tokens.implied, 1.8),
        dots: 4,
        dotColors: lines.expiries.map(({ days }) => depthColor(days, tokens)),
      },
      ...(lit < 0
        ? []
        : [
            {
              x: [lines.vols.days[lit]!],
              y: [lines.vols.vols[lit]!],
              color: tokens.focus,
              width: 0,
              dots: 6,
            },
          ]),
    ],
  };
}

/** Vol by days to expiry, with realized vol, the ghost and what is announced. */
export function termFigure(input: TermInput): Figure {
  const { instant, events, tokens, litExpiry, reading, layers, band } = input;
  const lines = termLines(input);
  const { expiries } = lines;
  const coming = comingEvents(events, instant, expiries.at(-1)?.days ?? 1)
    .filter((event) => !event.kind.startsWith('dividend'))
    .slice(0, MOST_EVENTS);
  const name = readingWords(reading);
  const line = (
    { days, vols }: TermLine,
    color: string,
    width: number,
    dash: 'solid' | 'dash' | 'dashdot',
    text?: string,
  ): Data =>
    ({
      type: 'scatter',
      mode: 'lines',
      x: days,
      y: vols,
      line: { color, width, dash },
      ...(text ? { hovertemplate: `${text} %{y:.2f} %<extra></extra>` } : { hoverinfo: 'skip' }),
    }) as Data;
  const bandVols = layers.includes('band')
    ? (band?.rows ?? []).flatMap((row) => Array.from(row, (vol) => 100 * vol))
    : [];
  const { x, y } = holdTerm(input, [lines], bandVols);
  const data: Data[] = [
    ...(band && layers.includes('band') ? bandTraces(band, [...band.at], (vol) => 100 * vol, tokens) : []),
    line(lines.ghost, tokens.faint, 1.4, 'dash'),
    line(lines.realized, tokens.realized, 1.6, 'dash', 'realized over as many sessions'),
    line(lines.steps, tokens.soft, 1.2, 'solid', 'forward vol'),
    ...lines.beside.map((one, i) =>
      line(one, besideColor(input.beside[i]!.at, tokens), 1.5, 'dashdot', input.beside[i]!.symbol),
    ),
    {
      type: 'scatter',
      mode: 'lines+markers',
      x: lines.vols.days,
      y: lines.vols.vols,
      customdata: expiries.map((one) => [expiryName(one)]) as never,
      text: expiries.map(
        (one, i) =>
          `${shortExpiry(one)} · ${figures.days(one.days)} days<br>${name} ${figures.fixed(lines.vols.vols[i]!, 2)} %`,
      ),
      hovertemplate: '%{text}<extra></extra>',
      line: { color: tokens.implied, width: 1.8 },
      marker: {
        size: expiries.map((one) => (expiryName(one) === litExpiry ? 12 : 8)),
        color: expiries.map(({ days }) => depthColor(days, tokens)),
        line: {
          color: expiries.map((one) => (expiryName(one) === litExpiry ? tokens.focus : tokens.panel)),
          width: expiries.map((one) => (expiryName(one) === litExpiry ? 2.5 : 1)),
        },
      },
    },
    {
      type: 'scatter',
      mode: 'markers',
      x: lines.maturities.days,
      y: lines.maturities.vols,
      text: lines.maturities.days.map((days) => `${days} days`),
      hovertemplate: '%{text}, between expiries %{y:.2f} %<extra></extra>',
      marker: { symbol: 'line-ns-open', size: 13, color: tokens.ink, line: { width: 1.6, color: tokens.ink } },
    },
  ];
  const shapes: Partial<Shape>[] = coming.map(({ days }) => ({
    type: 'line',
    x0: days,
    x1: days,
    yref: 'paper',
    y0: 0,
    y1: 1,
    line: { color: tokens.loss, width: 1, dash: 'dot' },
  }));
  const text = (content: Partial<Layout['annotations'][number]>, color: string) =>
    ({ showarrow: false, font: { family: MONO, size: 11, color }, ...content }) as Layout['annotations'][number];
  const label = input.isPlaying ? FIXED_TICKS : labelled(expiries);
  const [realizedDays, realizedVol] = [lines.realized.days.at(-1), lines.realized.vols.at(-1)];
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      margin: { l: 34, r: 12, t: 18, b: 24 },
      xaxis: {
        ...baseAxis(tokens),
        type: 'log',
        range: x,
        tickvals: label,
        ticktext: label.map((days) => figures.days(days)),
      },
      yaxis: { ...baseAxis(tokens), range: y, tickformat: '~f' },
      shapes: shapes as Shape[],
      annotations: [
        ...coming.map(({ days, kind }) =>
          text({ x: Math.log10(days), y: 1, yref: 'paper', yanchor: 'bottom', text: `◆ ${kind}` }, tokens.loss),
        ),
        ...(realizedDays !== undefined && realizedVol !== undefined
          ? [
              text(
                {
                  x: Math.log10(realizedDays),
                  xanchor: 'right',
                  y: realizedVol,
                  yanchor: realizedVol < (lines.vols.vols.at(-1) ?? 0) ? 'top' : 'bottom',
                  text: 'realized',
                },
                tokens.realized,
              ),
            ]
          : []),
      ],
    },
    table: () => ({
      columns: [
        { name: 'expiry', type: 'day' },
        { name: 'settlement', type: 'text' },
        ...numberColumns(['days'], figures.days),
        ...numberColumns([reading === 'atm' ? 'atm_vol' : `vol_${reading}`, 'forward_vol', 'realized'], (value) =>
          figures.vol(value, 2),
        ),
      ],
      rows: expiries.map(({ expiry, settlement, days, years, sessions }, i) => {
        const vol = lines.vols.vols[i]! / 100;
        const at = expiryBefore(expiries, i);
        const near = expiries[at];
        const forward = near ? forwardVol({ years: near.years, vol: lines.vols.vols[at]! / 100 }, { years, vol }) : vol;
        return [expiry, settlement, days, vol, forward, input.realizedVol(sessions)];
      }),
    }),
  };
}
