import { callDelta, curveVol } from '@umwelt/core';
import type { Data, Layout, Shape } from 'plotly.js';
import { figures, shortDay } from '$lib/formats';
import type { Axis, SkewScale, SkewSides } from '$lib/state/context';
import { centreOf, type Focus } from '$lib/state/focus';
import type { Tokens } from '$lib/state/theme.svelte';
import { numberColumns, type DataTable } from '$lib/tables/data-table';
import type { FittedSlice, LoadedSnapshot, ValuedSlice } from '$lib/workers';
import { depthColor } from './depth';
import { baseAxis, baseLayout, HeldRange, MONO, type Figure } from './figure';

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
  hidden: readonly string[];
  lit: Focus | null;
  /** Position of the expiry that the axes are made for; longer ones run out of the picture. */
  framed: number;
  /** Whether the quotes of the other expiries are drawn: while the moment moves their lines are enough. */
  isDetailed: boolean;
  tokens: Tokens;
  ranges: { x: HeldRange; y: HeldRange };
}

interface Point {
  strike: number;
  side: 'call' | 'put';
  bid: number;
  mid: number;
  ask: number;
}

const CURVE_POINTS = 61;
/** Far wings of near expiries would flatten everything else; they are cut at this many deviations. */
const MOST_DEVIATIONS = 4;

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

/** Where a strike stands on an axis; deltas are those of the call on the forward, in per cent. */
export function axisValue(axis: Axis, strike: number, { fit }: Pick<FittedSlice, 'fit'>): number {
  const k = Math.log(strike / fit.forward);
  switch (axis) {
    case 'strike':
      return strike;
    case 'forward':
      return (100 * strike) / fit.forward;
    case 'log':
      return k;
    case 'standardized':
      return k / (fit.atmVol * Math.sqrt(fit.years));
    case 'delta':
      return fit.curve ? 100 * callDelta(fit.curve, k) : NaN;
  }
}

/** A vol as it stands upright: in points, or as total variance. */
function upright(scale: SkewScale, vol: number, years: number): number {
  return scale === 'vol' ? 100 * vol : vol * vol * years;
}

function curveLine(slice: FittedSlice, axis: Axis, scale: SkewScale): { x: number[]; y: number[] } {
  const { fit, strike } = slice;
  if (!fit.curve || strike.length === 0) return { x: [], y: [] };
  const reach = MOST_DEVIATIONS * fit.atmVol * Math.sqrt(fit.years);
  const from = Math.max(Math.log(strike[0]! / fit.forward), -reach);
  const to = Math.min(Math.log(strike.at(-1)! / fit.forward), reach);
  const x: number[] = [];
  const y: number[] = [];
  for (let i = 0; i < CURVE_POINTS; i++) {
    const k = from + ((to - from) * i) / (CURVE_POINTS - 1);
    x.push(axisValue(axis, fit.forward * Math.exp(k), slice));
    y.push(upright(scale, curveVol(fit.curve, k), fit.years));
  }
  return { x, y };
}

/** An expiry as it is drawn. */
interface Drawn {
  slice: FittedSlice;
  points: readonly Point[];
  isFocus: boolean;
  curve: { x: number[]; y: number[] };
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
      expiry: slice.expiry,
      x: axisValue(axis, point.strike, slice),
      at: (vol: number) => upright(scale, vol, slice.fit.years),
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
    customdata: all.map(({ expiry, strike, side }) => [expiry, strike, side]) as never,
    text: all.map(
      ({ expiry, strike, side, bid, mid, ask }) =>
        `${shortDay(expiry)} ${figures.strike(strike)} ${side}<br>mid ${figures.vol(mid, 2)} %` +
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

function line(x: number[], y: number[], color: string, width: number, dash: 'solid' | 'dash' = 'solid'): Data {
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
  const x = axisValue(axis, lit.strike, slice);
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
        text: `<b>${shortDay(lit.expiry)} ${figures.strike(lit.strike)} ${lit.side}${vol}</b>`,
        font: { family: MONO, size: 11, color: tokens.focus },
        bgcolor: tokens.panel,
      } as Layout['annotations'][number],
    ],
  };
}

/** Share of the height that the misses take, and of the gap over them. */
const MISSES_HEIGHT = 0.2;
const MISSES_GAP = 0.06;

/** Crosses where quotes of the focused expiry are set aside. */
function asides(slice: FittedSlice, values: ValuedSlice, { axis, scale, tokens }: SkewInput): Data {
  const points = asidePoints(slice, values);
  return {
    type: 'scatter',
    mode: 'markers',
    x: points.map(({ strike }) => axisValue(axis, strike, slice)),
    y: points.map(({ mid }) => upright(scale, mid, slice.fit.years)),
    customdata: points.map(({ strike, side }) => [slice.expiry, strike, side, 'aside']) as never,
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
    x: held.map(({ strike }) => axisValue(axis, strike, slice)),
    y: held.map(({ mid, curve }) => 100 * (mid - curve)),
    error_y: {
      type: 'data',
      array: held.map(({ mid, ask }) => 100 * (ask - mid)),
      symmetric: true,
      thickness: 1,
      width: 0,
      color,
    },
    customdata: held.map(({ strike, side }) => [slice.expiry, strike, side]) as never,
    text: held.map(
      ({ strike, side, mid, curve }) =>
        `${figures.strike(strike)} ${side}: ${figures.volChange(mid - curve, 2)} points`,
    ),
    hovertemplate: '%{text}<extra></extra>',
    marker: { symbol: held.map(({ side }) => (side === 'put' ? 'triangle-down' : 'triangle-up')), size: 5, color },
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
      curve: curveLine(slice, axis, scale),
    }))
    .filter(({ slice, isFocus }) => slice.fit.curve && (isFocus || !hidden.includes(slice.expiry)))
    .map((drawn): Drawn => ({ ...drawn, color: depthColor(drawn.slice.fit.days, tokens) }));
  const others = visible.filter(({ isFocus }) => !isFocus);
  const focused = visible.find(({ isFocus }) => isFocus);
  const ghostSlice = focused && ghost?.slices.find((slice) => slice.expiry === focused.slice.expiry);
  const ghostCurve = ghostSlice ? curveLine(ghostSlice, axis, scale) : { x: [], y: [] };
  const hasMisses = input.hasMisses && focused !== undefined;
  const data: Data[] = [
    ...others.map(({ curve, color }) => line(curve.x, curve.y, color, 1.3)),
    ...quotes(input.isDetailed ? others : [], input, tokens.faint, false),
    ...(focused ? [line(focused.curve.x, focused.curve.y, focused.color, 2.4)] : []),
    ...(focused ? quotes([focused], input, focused.color, true) : []),
    line(ghostCurve.x, ghostCurve.y, tokens.faint, 1.6, 'dash'),
    ...(focused ? [asides(focused.slice, values[lit!.slice]!, input)] : []),
    ...(hasMisses ? [misses(focused, axis)] : []),
  ];
  const litPoint = focused?.points.find((point) => point.strike === lit?.strike && point.side === lit.side);
  if (focused && litPoint) {
    data.push({
      type: 'scatter',
      mode: 'markers',
      x: [axisValue(axis, litPoint.strike, focused.slice)],
      y: [upright(scale, litPoint.mid, focused.slice.fit.years)],
      marker: { symbol: litPoint.side === 'put' ? 'triangle-down' : 'triangle-up', size: 11, color: tokens.focus },
      hoverinfo: 'skip',
    });
  }
  const mark = focused ? litMark(focused.slice, litPoint, input) : { shapes: [], annotations: [] };
  const forward = focused ? axisValue(axis, centreOf(snapshot, focused.slice), focused.slice) : null;
  const framed = snapshot.slices[input.framed];
  const key = `${snapshot.symbol} ${axis} ${scale} ${input.isLog} ${framed?.expiry} ${hidden.join()}`;
  const x = ranges.x.of(key, framed ? curveLine(framed, axis, scale).x : [], axis === 'delta' ? 0.03 : 0.12);
  const inView = [...visible.map(({ curve }) => curve), ghostCurve].flatMap((curve) =>
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
        tickformat: AXIS_FORMATS[axis],
        ...(hasMisses ? { anchor: 'y2' as const } : {}),
      },
      yaxis: {
        ...baseAxis(tokens),
        range: y,
        domain: hasMisses ? [MISSES_HEIGHT + MISSES_GAP, 1] : [0, 1],
        ...(input.isLog ? { type: 'log' as const, dtick: 'D1' } : {}),
        tickformat: scale === 'vol' ? '.0f' : '~g',
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
          ? [note(forward, `forward ${figures.fixed(focused.slice.fit.forward, 2)}`, tokens.soft)]
          : []),
        ...mark.annotations,
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

const AXIS_FORMATS: Record<Axis, string> = {
  strike: '~f',
  forward: '.0f',
  log: '.2f',
  standardized: '.1f',
  delta: '.0f',
};

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
  const ordered = [...visible].sort((a, b) => (a.slice.expiry < b.slice.expiry ? -1 : 1));
  return {
    columns: [
      { name: 'expiry', type: 'day' },
      ...numberColumns(['strike'], figures.strike),
      { name: 'side', type: 'text' },
      ...numberColumns(['bid_vol', 'mid_vol', 'ask_vol', 'curve'], (value) => figures.vol(value, 2)),
    ],
    rows: ordered.flatMap(({ slice, points }) =>
      points.map((point) => [
        slice.expiry,
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
