import type { Data, Datum, Layout, PlotData, Shape } from 'plotly.js';
import { figures } from '$lib/formats';
import type { MarketEvent } from '$lib/data/api';
import type { Tokens } from '$lib/ui/theme.svelte';
import { numberColumns } from '$lib/tables/data-table';
import { baseAxis, baseLayout, HeldRange, MONO, type Figure } from '$lib/charts/figure';

/** A series by session, as it is read: vols in per cent. */
export interface PathLine {
  name: string;
  label: string;
  values: readonly number[];
  /** One standard error of each, where it is held. */
  errors?: readonly number[] | undefined;
}

export interface PathInput {
  dates: readonly string[];
  /** The day after the last that is held: the axis of time reaches it while the past plays. */
  end: string;
  close: readonly number[];
  /** Of options; NaN where it is not known. */
  volume: readonly number[];
  implied: readonly PathLine[];
  historical: readonly PathLine[];
  lower: PathLine & { unit: string; isBars: boolean };
  events: readonly MarketEvent[];
  /** Everything stored that the axes must include, whichever moment is in view. */
  reach: { close: readonly number[]; vols: readonly number[]; lower: readonly number[] };
  key: string;
  tokens: Tokens;
  ranges: { price: HeldRange; vol: HeldRange; lower: HeldRange };
}

/** Dashes by which lines of one colour are told, and how they are drawn elsewhere. */
const DASHES = ['solid', 'dash', 'dot', 'dashdot', 'longdash', 'longdashdot'] as const;
const STROKES = ['none', '5 4', '1.5 3', '6 3 1.5 3', '9 4', '9 3 1.5 3'] as const;

/** The dashes of a line as a stroke: of the implied vols from the first, of the historical ones from the second on. */
export function strokeOf(position: number, isHistorical: boolean): string {
  return STROKES[(position + (isHistorical ? 1 : 0)) % STROKES.length]!;
}
/** Sessions whose columns are drawn with corners, at most. */
const MOST_CORNERS = 500;
/** Share of the price's height that volume may fill. */
const VOLUME_SHARE = 0.35;

/** Price with events and volume above, implied against historical vols, and what stands below, on one axis of time. */
export function pathFigure(input: PathInput): Figure {
  const { dates, close, volume, implied, historical, lower, events, reach, key, tokens, ranges } = input;
  // As numbers: Plotly would parse every date of every line again.
  const x = dates.map((date) => Date.parse(date));
  const drawn = (values: readonly number[]) =>
    values.map((value) => (Number.isFinite(value) ? value : null)) as number[];
  const line = (
    values: readonly number[],
    name: string,
    color: string,
    dash: (typeof DASHES)[number],
    yaxis: 'y' | 'y2' | 'y3',
  ): Data => ({
    type: 'scatter',
    mode: 'lines',
    x,
    y: drawn(values),
    name,
    yaxis,
    line: { color, width: 1.8, dash },
    hovertemplate: `%{y:.${yaxis === 'y' ? 2 : 1}f}`,
  });
  /** As they stand in the table: each with its standard errors beside it. */
  const series = [...implied, ...historical].flatMap(({ name, values, errors }) => [
    { name, values },
    ...(errors ? [{ name: `${name}_error`, values: errors }] : []),
  ]);
  const most = Math.max(0, ...volume.filter(Number.isFinite));
  const data: Data[] = [
    ...(most > 0
      ? [
          {
            ...columns(x, drawn(volume), 'y4'),
            name: 'options traded',
            // Transparent: the price line runs behind it.
            fillcolor: `${tokens.faint}73`,
            hovertemplate: '%{y:,.0f}',
          } as Data,
        ]
      : []),
    line(close, 'close', tokens.ink, 'solid', 'y'),
    ...implied.map((one, i): Data => {
      const drawnLine = line(one.values, one.label, tokens.implied, DASHES[i % DASHES.length]!, 'y2');
      if (!one.errors) return drawnLine;
      const text = one.errors.map((error) => figures.doubt(error, 1));
      return { ...drawnLine, text, hovertemplate: '%{y:.1f} %{text}' } as Data;
    }),
    ...historical.map((one, i) => line(one.values, one.label, tokens.realized, DASHES[(i + 1) % DASHES.length]!, 'y2')),
    ...(lower.isBars ? gapColumns(x, lower.values, tokens) : []),
    lower.isBars
      ? ({
          ...line(lower.values, `${lower.label}${lower.unit ? `, ${lower.unit}` : ''}`, tokens.soft, 'solid', 'y3'),
          line: { color: tokens.soft, width: 0.6, shape: shapeOf(x.length) },
          hovertemplate: '%{y:+.1f}',
        } as Data)
      : line(lower.values, `${lower.label}${lower.unit ? `, ${lower.unit}` : ''}`, tokens.ink, 'solid', 'y3'),
    eventMarks(events, dates, close, tokens),
  ];
  const axis = baseAxis(tokens);
  const title = (text: string) => ({ text, font: { family: MONO, size: 11, color: tokens.soft }, standoff: 6 });
  return {
    data,
    layout: {
      ...baseLayout(tokens),
      hovermode: 'x unified',
      margin: { l: 52, r: 12, t: 8, b: 36 },
      bargap: 0.25,
      xaxis: {
        ...axis,
        type: 'date',
        range: [dates[0]!, input.end],
        anchor: 'y3',
        hoverformat: '%a %-d %b %Y',
        // Weekends are cut out of the axis, as long as they would be wide enough to see.
        rangebreaks: x.length > MOST_CORNERS ? [] : [{ bounds: ['sat', 'mon'] }],
        tickformat: '%-d %b\n%Y',
      },
      // The range is fixed from the first drawing for all that is stored, so that nothing jumps during playback.
      yaxis: { ...axis, domain: [0.66, 1], range: ranges.price.of(key, reach.close), title: title('price') },
      yaxis2: {
        ...axis,
        domain: [0.25, 0.63],
        range: ranges.vol.of(key, reach.vols),
        title: title('vol %'),
        tickformat: '~f',
      } as Layout['yaxis'],
      yaxis3: {
        ...axis,
        domain: [0, 0.22],
        range: ranges.lower.of(`${key} ${lower.name}`, lower.isBars ? [0, ...reach.lower] : reach.lower),
        title: title(lower.label),
        zeroline: true,
        zerolinecolor: tokens.soft,
        tickformat: '~f',
      } as Layout['yaxis'],
      yaxis4: {
        ...axis,
        overlaying: 'y',
        range: [0, most / VOLUME_SHARE || 1],
        showgrid: false,
        showticklabels: false,
        showline: false,
      } as Layout['yaxis'],
      shapes: [
        {
          type: 'line',
          x0: x.at(-1),
          x1: x.at(-1),
          yref: 'paper',
          y0: 0,
          y1: 1,
          line: { color: tokens.focus, width: 1 },
        } as Shape,
      ],
    },
    table: () => ({
      columns: [
        { name: 'date', type: 'day' },
        ...numberColumns(['close'], (value) => figures.fixed(value, 2)),
        ...numberColumns(['options_traded'], (value) => figures.count(value)),
        ...series.flatMap(({ name }) => numberColumns([name], (value) => figures.fixed(value, 2))),
        ...numberColumns([lower.name], (value) => figures.signed(value, 2)),
      ],
      rows: dates.map((date, i) => [
        ...[date, close[i]!, volume[i]!],
        ...series.map(({ values }) => values[i]!),
        lower.values[i]!,
      ]),
    }),
  };
}

/** Columns with corners, as long as these can be seen. */
const shapeOf = (sessions: number) => (sessions > MOST_CORNERS ? 'linear' : 'hvh');

/**
 * Columns from zero as one shape: a mark for each of some thousand sessions would take longer to draw than everything else
 * together.
 */
function columns(x: readonly Datum[], y: readonly (number | null)[], yaxis: 'y3' | 'y4'): Partial<PlotData> {
  return {
    type: 'scatter',
    mode: 'lines',
    x: [...x],
    y: [...y] as number[],
    yaxis,
    fill: 'tozeroy',
    line: { width: 0, shape: shapeOf(x.length) },
  };
}

/** What is over zero and what is under it, which is hatched and not only coloured; read at the line over both. */
function gapColumns(x: readonly Datum[], values: readonly number[], tokens: Tokens): Data[] {
  const part = (isIn: (value: number) => boolean) => values.map((value) => (isIn(value) ? value : 0));
  const silent = { hoverinfo: 'skip' as const };
  return [
    {
      ...columns(
        x,
        part((value) => value > 0),
        'y3',
      ),
      ...silent,
      name: 'over',
      fillcolor: tokens.gain,
    } as Data,
    {
      ...columns(
        x,
        part((value) => value < 0),
        'y3',
      ),
      ...{ ...silent, name: 'under', fillcolor: tokens.loss },
      fillpattern: { shape: '/', fgcolor: tokens.panel, bgcolor: tokens.loss, size: 4, solidity: 0.4 },
    } as Data,
  ];
}

function eventMarks(
  events: readonly MarketEvent[],
  dates: readonly string[],
  close: readonly number[],
  tokens: Tokens,
): Data {
  const closeOn = new Map(dates.map((date, i) => [date, close[i]!]));
  const shown = events.filter(({ date }) => Number.isFinite(closeOn.get(date) ?? NaN));
  return {
    type: 'scatter',
    mode: 'markers',
    name: '',
    x: shown.map(({ date }) => date),
    y: shown.map(({ date }) => closeOn.get(date)!),
    text: shown.map(({ title, amount }) => (amount === null ? title : `${title} ${figures.fixed(amount, 2)}`)),
    hovertemplate: '%{text}<extra></extra>',
    marker: { symbol: 'diamond', size: 9, color: tokens.loss, line: { color: tokens.panel, width: 1 } },
  };
}
