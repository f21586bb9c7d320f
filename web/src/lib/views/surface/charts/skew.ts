import { curveVol, quantileOf, type Curve, expiryName, isSameExpiry, type ExpiryId, type Side } from '@umwelt/core';
import type { Data, Layout, Shape } from 'plotly.js';
import type { Band, CurveExpiry, Frame } from '$lib/film';
import { figures, shortExpiry } from '$lib/formats';
import { type Axis, type SkewScale, type SkewSides } from '../params';
import { centreOf, type Focus } from '$lib/data/focus';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import type { FittedSlice, LoadedSnapshot, ValuedSlice } from '$lib/data';
import { bandAreas, bandTraces } from './band';
import { besideNames, besideSkews, besideTraces, type Beside } from './beside';
import { axisFormat, axisValue, curveLine, upright, type CurveLine, type Drawable } from './curve-line';
import { depthColor } from '$lib/charts/depth';
import { baseAxis, baseLayout, HeldRange, MONO, type Figure } from '$lib/charts/figure';
import type { Moving } from '$lib/charts/moving';

export interface SkewInput {
  snapshot: LoadedSnapshot;
  values: readonly ValuedSlice[];
  ghost: LoadedSnapshot | null;
  axis: Axis;
  sides: SkewSides;
  scale: SkewScale;
  isLog: boolean;
  /** Whether the distances of the focused expiry's quotes from its curve are drawn below. */
  hasMisses: boolean;
  /** Names of expiries that are left out. */
  hidden: ReadonlySet<string>;
  lit: Focus | null;
  /** Position of the expiry that the axes are made for; longer ones run out of the picture. */
  framed: number;
  /** Whether the quotes of the other expiries are drawn: while the moment moves their lines are enough. */
  isDetailed: boolean;
  /** What the past gave at the focused expiry's time, at deviations from the forward. */
  band: Band | null;
  beside: readonly Beside[];
  /** A curve that the focused expiry might borrow. */
  draft: Curve | null;
  /** That prices are written with. */
  decimals: number;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

/** What the moving skew needs beside its frame. */
export type SkewView = Pick<SkewInput, 'axis' | 'scale' | 'isLog' | 'hidden' | 'decimals' | 'tokens' | 'ranges'>;

interface Point {
  strike: number;
  side: Side;
  bid: number;
  mid: number;
  ask: number;
}

/** The quotes of an expiry that have a vol, of the sides that are wanted. */
export function skewPoints(slice: FittedSlice, values: ValuedSlice, sides: SkewSides = 'otm'): Point[] {
  const points: Point[] = [];
  const forward = slice.fit.forward;
  slice.strike.forEach((strike, i) => {
    for (const side of ['put', 'call'] as const) {
      const isWanted = sides === 'otm' ? (side === 'put') === strike < forward : sides === 'both' || sides === side;
      const vols = side === 'put' ? values.putVols : values.callVols;
      if (!isWanted || vols.reason[i] !== 0) continue;
      points.push({ strike, side, bid: vols.bid[i]!, mid: vols.mid[i]!, ask: vols.ask[i]! });
    }
  });
  return points;
}

/** Contracts of an expiry that have a vol and are set aside. */
function asidePoints({ strike, fit }: FittedSlice, values: ValuedSlice): Point[] {
  return fit.aside.flatMap(({ side, strike: level }) => {
    const vols = side === 'put' ? values.putVols : values.callVols;
    const i = strike.indexOf(level);
    return i >= 0 && Number.isFinite(vols.mid[i]!)
      ? [{ strike: level, side, bid: vols.bid[i]!, mid: vols.mid[i]!, ask: vols.ask[i]! }]
      : [];
  });
}

/** The first and the last strike of an expiry. */
function reachOf({ strike }: Pick<FittedSlice, 'strike'>): [number, number] | null {
  return strike.length > 0 ? [strike[0]!, strike.at(-1)!] : null;
}

const lineOf = (slice: FittedSlice, axis: Axis, scale: SkewScale) => curveLine(slice.fit, reachOf(slice), axis, scale);

/** An expiry as it is drawn. */
interface Drawn {
  slice: FittedSlice;
  points: readonly Point[];
  isFocus: boolean;
  curve: CurveLine;
  color: string;
}

/**
 * The mids of some expiries as one trace, and their bid–ask bars as one broken line: a trace for each expiry, or
 * an element for each bar, would take several times as long to draw.
 */
function quotes(drawn: readonly Drawn[], { axis, scale }: SkewInput, barColor: string, isFocus: boolean): Data[] {
  const all = drawn.flatMap(({ slice, points, color }) =>
    points.map((point) => ({
      ...point,
      color,
      expiry: slice,
      x: axisValue(axis, point.strike, slice.fit),
      at: (vol: number) => upright(scale, vol, slice.fit),
    })),
  );
  const opacity = isFocus ? 1 : 0.5;
  const ends = all.flatMap(({ x }) => [x, x, null]) as number[];
  // A bid without a vol leaves no lower half.
  const vols = all.flatMap(({ bid, mid, ask, at }) => [
    at(Number.isFinite(bid) ? bid : mid),
    at(ask),
    null,
  ]) as number[];
  const marks: Data = {
    type: 'scatter',
    mode: 'markers',
    x: all.map(({ x }) => x),
    y: all.map(({ mid, at }) => at(mid)),
    customdata: all.map(({ expiry, strike, side }) => [expiryName(expiry), strike, side]) as never,
    text: all.map(
      ({ expiry, strike, side, bid, mid, ask }) =>
        `${shortExpiry(expiry)} ${figures.strike(strike)} ${side}<br>mid ${figures.vol(mid, 2)} %` +
        `<br>bid ${figures.vol(bid, 2)} · ask ${figures.vol(ask, 2)}`,
    ),
    hovertemplate: '%{text}<extra></extra>',
    marker: {
      symbol: all.map(({ side }) => (side === 'put' ? 'triangle-down-open' : 'triangle-up-open')),
      size: isFocus ? 7 : 4,
      color: isFocus ? barColor : all.map(({ color }) => color),
    },
    opacity,
  };
  return [{ ...line(ends, vols, barColor, isFocus ? 1.2 : 0.8), opacity } as Data, marks];
}

function line(x: number[], y: number[], color: string, width: number, dash: 'solid' | 'dash' | 'dot' = 'solid'): Data {
  return { type: 'scatter', mode: 'lines', x, y, line: { color, width, dash }, hoverinfo: 'skip' };
}

function vertical(x: number, color: string, dash: 'dot' | 'solid'): Partial<Shape> {
  return { type: 'line', x0: x, x1: x, yref: 'paper', y0: 0, y1: 1, line: { color, width: 1.2, dash } };
}

/** The mark of the lit contract: a line to the axis, and under it what it is. */
function litMark(
  slice: FittedSlice,
  point: Point | undefined,
  input: SkewInput,
): Pick<Layout, 'shapes' | 'annotations'> {
  const { lit, tokens, axis } = input;
  if (!lit) return { shapes: [], annotations: [] };
  const x = axisValue(axis, lit.strike, slice.fit);
  const vol = point?.side === lit.side ? ` · ${figures.vol(point.mid)} %` : '';
  return {
    shapes: [vertical(x, tokens.focus, 'solid') as Shape],
    annotations: [
      {
        x,
        y: 0,
        yref: 'paper',
        yanchor: 'top',
        yshift: -18,
        showarrow: false,
        text: `<b>${shortExpiry(lit)} ${figures.strike(lit.strike)} ${lit.side}${vol}</b>`,
        font: { family: MONO, size: 11, color: tokens.focus },
        bgcolor: tokens.panel,
      } as Layout['annotations'][number],
    ],
  };
}

/** Share of the height that the misses take, and of the gap over them. */
const MISSES_HEIGHT = 0.2;
const MISSES_GAP = 0.06;

/** A borrowed curve is dotted. */
const dashOf = ({ fit }: FittedSlice) => (fit.borrowed ? 'dot' : 'solid');

/** Crosses where quotes of the focused expiry are set aside. */
function asides(slice: FittedSlice, values: ValuedSlice, { axis, scale, tokens }: SkewInput): Data {
  const points = asidePoints(slice, values);
  return {
    type: 'scatter',
    mode: 'markers',
    x: points.map(({ strike }) => axisValue(axis, strike, slice.fit)),
    y: points.map(({ mid }) => upright(scale, mid, slice.fit)),
    customdata: points.map(({ strike, side }) => [expiryName(slice), strike, side, 'aside']) as never,
    text: points.map(({ strike, side }) => `${figures.strike(strike)} ${side}: set aside`),
    hovertemplate: '%{text}<extra></extra>',
    marker: { symbol: 'x-thin-open', size: 8, color: tokens.loss, line: { width: 1.5 } },
  };
}

/** How far the quotes of an expiry are from its curve, in vol points, with half their spread. */
function misses({ slice, points, color }: Drawn, axis: Axis): Data {
  const { fit } = slice;
  const held = points.map((point) => ({ ...point, curve: curveVol(fit.curve!, Math.log(point.strike / fit.forward)) }));
  return {
    type: 'scatter',
    mode: 'markers',
    yaxis: 'y2',
    x: held.map(({ strike }) => axisValue(axis, strike, slice.fit)),
    y: held.map(({ mid, curve }) => 100 * (mid - curve)),
    error_y: {
      type: 'data',
      array: held.map(({ mid, ask }) => 100 * (ask - mid)),
      symmetric: true,
      thickness: 1,
      width: 0,
      color,
    },
    customdata: held.map(({ strike, side }) => [expiryName(slice), strike, side]) as never,
    text: held.map(
      ({ strike, side, mid, curve }) =>
        `${figures.strike(strike)} ${side}: ${figures.volChange(mid - curve, 2)} points`,
    ),
    hovertemplate: '%{text}<extra></extra>',
    marker: { symbol: held.map(({ side }) => (side === 'put' ? 'triangle-down' : 'triangle-up')), size: 5, color },
  };
}

/** What the held ranges of the skew are for. */
function skewKey(
  { axis, scale, isLog, hidden, band }: Pick<SkewView, 'axis' | 'scale' | 'isLog' | 'hidden'> & { band?: unknown },
  symbol: string,
  framed: ExpiryId | undefined,
): string {
  return `${symbol} ${axis} ${scale} ${isLog} ${framed && expiryName(framed)} ${[...hidden].join()} ${Boolean(band)}`;
}

const xMargin = (axis: Axis) => (axis === 'delta' ? 0.03 : 0.12);

/** Where the places of a band stand on the axes of an expiry, and how its vols do. */
function bandPlace(band: Band, expiry: Drawable, { axis, scale }: Pick<SkewView, 'axis' | 'scale'>) {
  const deviation = expiry.atmVol * Math.sqrt(expiry.years);
  const x = Array.from(band.at, (z) => axisValue(axis, expiry.forward * Math.exp(z * deviation), expiry));
  // A band of shapes is over the money already.
  const y = (vol: number) => (scale === 'variance' ? upright(scale, vol, expiry) : 100 * vol);
  return { x, y };
}

const frameLine = (one: CurveExpiry, { axis, scale }: Pick<SkewView, 'axis' | 'scale'>, points?: number) =>
  curveLine(one, Number.isFinite(one.lowest + one.highest) ? [one.lowest, one.highest] : null, axis, scale, points);

/** Share of the heights of all curves that the axis holds, where the focused one does not need more. */
const MOST_HELD = 0.98;
/** Points of a curve that tell how far it reaches. */
const FEW_POINTS = 13;

/**
 * Lets the axes of the skew reach as far as the curves of some frames, so that they hold still while these play.
 *
 * @param framed the expiry that the picture is made for
 * @param focusOf position of the focused expiry of a frame
 */
export function holdSkew(
  view: SkewView & { band?: unknown },
  framed: ExpiryId | undefined,
  frames: readonly Frame[],
  focusOf: (frame: Frame) => number,
): void {
  const [first] = frames;
  if (!first) return;
  const key = skewKey(view, first.symbol, framed);
  const focused = frames.flatMap((frame) => frame.expiries[focusOf(frame)] ?? []);
  const x = view.ranges.x.of(
    key,
    focused.flatMap((one) => frameLine(one, view, FEW_POINTS).x),
    xMargin(view.axis),
  );
  const heights = (one: CurveExpiry) => {
    const line = frameLine(one, view, FEW_POINTS);
    return line.y.filter((_, i) => line.x[i]! >= x[0] && line.x[i]! <= x[1]);
  };
  const others = frames
    .flatMap(({ expiries }) => expiries.filter((one) => !view.hidden.has(expiryName(one))).flatMap(heights))
    .filter(Number.isFinite)
    .sort((a, b) => a - b);
  // The wings of the nearest expiries on a few days would flatten all the others.
  const inView = [...focused.flatMap(heights), ...[1 - MOST_HELD, MOST_HELD].map((share) => quantileOf(others, share))];
  view.ranges.y.of(key, view.isLog ? inView.map(Math.log10) : inView);
}

/** The curves of a frame as they move on held axes. */
export function skewMoving(
  frame: Frame,
  ghost: readonly FittedSlice[] | null,
  focus: number,
  view: SkewView & Pick<SkewInput, 'band' | 'beside'>,
): Moving {
  const { axis, scale, hidden, tokens, band } = view;
  const focused = frame.expiries[focus];
  const visible = frame.expiries.filter(
    (one, i) => one.curve && one.expiryAside === null && i !== focus && !hidden.has(expiryName(one)),
  );
  const ghostOf = focused && ghost?.find((one) => isSameExpiry(one, focused));
  const place = band && focused && bandPlace(band, focused, view);
  const others = focused ? besideSkews(view.beside, focused, axis, scale, tokens) : [];
  return {
    areas: band && place ? bandAreas(band, place.x, place.y, tokens) : [],
    lines: [
      ...visible.map((one) => ({ ...frameLine(one, view), color: depthColor(one.days, tokens), width: 1.3 })),
      ...(focused ? [{ ...frameLine(focused, view), color: depthColor(focused.days, tokens), width: 2.4 }] : []),
      ...(ghostOf ? [{ ...lineOf(ghostOf, axis, view.scale), color: tokens.faint, width: 1.6, isDashed: true }] : []),
      ...others.map(({ x, y, color }) => ({ x, y, color, width: 1.8, isDashed: true })),
    ],
    uprights: focused
      ? [
          {
            x: axisValue(axis, focused.forward, focused),
            color: tokens.ink,
            text: `forward ${figures.fixed(focused.forward, view.decimals)}`,
          },
        ]
      : [],
  };
}

/** The skew of the expiries that are not left out, with the focused one before the others. */
export function skewFigure(input: SkewInput): Figure {
  const { snapshot, values, ghost, axis, scale, sides, hidden, lit, tokens, ranges } = input;
  const visible = snapshot.slices
    .map((slice, i) => ({
      slice,
      points: skewPoints(slice, values[i]!, sides),
      isFocus: i === lit?.slice,
      curve: lineOf(slice, axis, scale),
    }))
    .filter(
      ({ slice, isFocus }) =>
        slice.fit.curve && (isFocus || (slice.fit.expiryAside === null && !hidden.has(expiryName(slice)))),
    )
    .map((drawn): Drawn => ({ ...drawn, color: depthColor(drawn.slice.fit.days, tokens) }));
  const others = visible.filter(({ isFocus }) => !isFocus);
  const focused = visible.find(({ isFocus }) => isFocus);
  const ghostSlice = focused && ghost?.slices.find((slice) => isSameExpiry(slice, focused.slice));
  const ghostCurve = ghostSlice ? lineOf(ghostSlice, axis, scale) : { x: [], y: [] };
  const hasMisses = input.hasMisses && focused !== undefined;
  const place = input.band && focused && bandPlace(input.band, focused.slice.fit, input);
  const beside = focused ? besideSkews(input.beside, focused.slice.fit, axis, scale, tokens) : [];
  const draftLine =
    input.draft && focused
      ? curveLine({ ...focused.slice.fit, curve: input.draft }, reachOf(focused.slice), axis, scale)
      : null;
  const data: Data[] = [
    ...(input.band && place ? bandTraces(input.band, place.x, place.y, tokens) : []),
    ...others.map(({ curve, color, slice }) => line(curve.x, curve.y, color, 1.3, dashOf(slice))),
    ...quotes(input.isDetailed ? others : [], input, tokens.faint, false),
    ...(focused ? [line(focused.curve.x, focused.curve.y, focused.color, 2.4, dashOf(focused.slice))] : []),
    ...(draftLine ? [line(draftLine.x, draftLine.y, tokens.ink, 2, 'dot')] : []),
    ...(focused ? quotes([focused], input, focused.color, true) : []),
    line(ghostCurve.x, ghostCurve.y, tokens.faint, 1.6, 'dash'),
    ...besideTraces(beside),
    ...(focused ? [asides(focused.slice, values[lit!.slice]!, input)] : []),
    ...(hasMisses ? [misses(focused, axis)] : []),
  ];
  const litPoint = focused?.points.find((point) => point.strike === lit?.strike && point.side === lit.side);
  if (focused && litPoint) {
    data.push({
      type: 'scatter',
      mode: 'markers',
      x: [axisValue(axis, litPoint.strike, focused.slice.fit)],
      y: [upright(scale, litPoint.mid, focused.slice.fit)],
      marker: { symbol: litPoint.side === 'put' ? 'triangle-down' : 'triangle-up', size: 11, color: tokens.focus },
      hoverinfo: 'skip',
    });
  }
  const mark = focused ? litMark(focused.slice, litPoint, input) : { shapes: [], annotations: [] };
  const forward = focused ? axisValue(axis, centreOf(snapshot, focused.slice), focused.slice.fit) : null;
  const framed = snapshot.slices[input.framed];
  const key = skewKey(input, snapshot.symbol, framed);
  const x = ranges.x.of(key, framed ? lineOf(framed, axis, scale).x : [], xMargin(axis));
  const bandLines = (place ? input.band!.rows : []).map((row) => ({
    x: place!.x,
    y: Array.from(row, place!.y),
  }));
  const inView = [...visible.map(({ curve }) => curve), ghostCurve, ...beside, ...bandLines].flatMap((curve) =>
    curve.y.filter((_, i) => curve.x[i]! >= x[0] && curve.x[i]! <= x[1]),
  );
  const missed = hasMisses ? largestMiss(focused) : 1;
  const y = ranges.y.of(key, input.isLog ? inView.map(Math.log10) : inView);
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      margin: { l: scale === 'vol' ? 38 : 48, r: 10, t: 20, b: 44 },
      xaxis: {
        ...baseAxis(tokens),
        // A high delta of the call is a low strike, and stays at the left.
        range: axis === 'delta' ? [x[1], x[0]] : x,
        tickformat: axisFormat(axis),
        ...(hasMisses ? { anchor: 'y2' as const } : {}),
      },
      yaxis: {
        ...baseAxis(tokens),
        range: y,
        domain: hasMisses ? [MISSES_HEIGHT + MISSES_GAP, 1] : [0, 1],
        ...(input.isLog ? { type: 'log' as const, dtick: 'D1' } : {}),
        tickformat: scale === 'variance' ? '~g' : pointsFormat(y, input.isLog),
      },
      ...(hasMisses
        ? {
            yaxis2: {
              ...baseAxis(tokens),
              domain: [0, MISSES_HEIGHT],
              zeroline: true,
              zerolinecolor: tokens.soft,
              range: [-missed, missed],
              tickvals: [-0.7 * missed, 0, 0.7 * missed],
              tickformat: '+.2f',
            },
          }
        : {}),
      shapes: [...(forward !== null ? [vertical(forward, tokens.ink, 'dot') as Shape] : []), ...mark.shapes],
      annotations: [
        ...(forward !== null && focused
          ? [note(forward, `forward ${figures.fixed(focused.slice.fit.forward, input.decimals)}`, tokens.soft)]
          : []),
        ...mark.annotations,
        ...besideNames(beside),
      ],
    },
    table: () => skewTable(visible),
  };
}

/** The largest distance of a quote from the curve, in vol points, and a little. */
function largestMiss({ slice: { fit }, points }: Drawn): number {
  const away = points.map(({ strike, mid }) => Math.abs(mid - curveVol(fit.curve!, Math.log(strike / fit.forward))));
  return 130 * Math.max(0.001, ...away);
}

/** Whole points, or as many decimals as the span of the axis asks for. */
function pointsFormat([low, high]: readonly [number, number], isLog: boolean): string {
  const span = isLog ? 10 ** high - 10 ** low : high - low;
  if (span > 4) return '.0f';
  return span > 0.4 ? '.1f' : '.2f';
}

function note(x: number, text: string, color: string): Layout['annotations'][number] {
  return {
    x,
    y: 1,
    yref: 'paper',
    xanchor: 'left',
    yanchor: 'bottom',
    showarrow: false,
    text,
    font: { family: MONO, size: 11, color },
  } as Layout['annotations'][number];
}

function skewTable(visible: readonly { slice: FittedSlice; points: readonly Point[] }[]): DataTable {
  const ordered = [...visible].sort((a, b) => a.slice.fit.years - b.slice.fit.years);
  return {
    columns: [
      { name: 'expiry', type: 'day' },
      { name: 'settlement', type: 'text' },
      ...numberColumns(['strike'], figures.strike),
      { name: 'side', type: 'text' },
      ...numberColumns(['bid_vol', 'mid_vol', 'ask_vol', 'curve'], (value) => figures.vol(value, 2)),
    ],
    rows: ordered.flatMap(({ slice, points }) =>
      points.map((point) => [
        slice.expiry,
        slice.settlement,
        point.strike,
        point.side,
        point.bid,
        point.mid,
        point.ask,
        slice.fit.curve ? curveVol(slice.fit.curve, Math.log(point.strike / slice.fit.forward)) : NaN,
      ]),
    ),
  };
}
