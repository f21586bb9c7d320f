import {
  constantMaturityVol,
  leanOf,
  maturityMeasures,
  termMeasures,
  timedMeasures,
  type Curve,
  type TimedMeasures,
  expiryName,
  isSameExpiry,
  type ExpiryId,
} from '@umwelt/core';
import { usedExpiries, type CurveExpiry, type Frame } from '$lib/film';
import { figures, shortExpiry, type Sentence } from '$lib/formats';
import type { DataTable, SortColumn } from '$lib/tables';

/** An expiry as its measures are shown. */
export type MeasurableExpiry = Omit<CurveExpiry, 'lowest' | 'highest'>;

/** The numbers of a row; vols are decimals, NaN where there is none. */
export interface MeasureValues extends Omit<TimedMeasures, 'years'> {
  forward: number;
  forwardVol: number;
  ambientVol: number;
  eventMove: number;
  straddleMove: number;
  deviationMove: number;
}
export type MeasureId = keyof MeasureValues;

/** An expiry or a fixed number of days, with what was measured of it at two moments. */
export interface MeasureRow {
  key: string;
  name: string;
  /** Null for a number of days. */
  of: ExpiryId | null;
  days: number;
  values: MeasureValues;
  before: MeasureValues | null;
  /** Its vol at the money over the last sessions. */
  spark: number[];
  /** Symbol and expiry of a curve that is not its own. */
  borrowedFrom: string | null;
}

interface Measure {
  id: MeasureId;
  label: string;
  title: string;
  /** The decimals are those of prices. */
  write: (value: number, decimals: number) => string;
  change: (value: number, decimals: number) => string;
}

const money = (value: number, decimals: number) => figures.fixed(value, decimals);
const points = (value: number) => figures.volChange(value);

export const MEASURES: readonly Measure[] = [
  {
    id: 'atmVol',
    label: 'ATM',
    title: 'curve at the forward, points',
    write: (value) => figures.vol(value),
    change: points,
  },
  { id: 'riskReversal25', label: 'RR 25', title: '25-delta call less put, points', write: points, change: points },
  { id: 'butterfly25', label: 'BF 25', title: '25-delta wings over the middle, points', write: points, change: points },
  { id: 'riskReversal10', label: 'RR 10', title: '10-delta call less put, points', write: points, change: points },
  { id: 'butterfly10', label: 'BF 10', title: '10-delta wings over the middle, points', write: points, change: points },
  {
    id: 'slope',
    label: 'slope',
    title: 'of the curve at the forward: points of vol for ten points of delta up in strike',
    write: (value) => figures.volChange(value, 2),
    change: (value) => figures.volChange(value, 2),
  },
  {
    id: 'forwardVol',
    label: 'fwd vol',
    title: 'from the expiry before to this one, points',
    write: (value) => figures.vol(value),
    change: points,
  },
  {
    id: 'ambientVol',
    label: 'ambient',
    title: 'vol of the days before it without what announcements carry, points',
    write: (value) => figures.vol(value),
    change: points,
  },
  {
    id: 'eventMove',
    label: 'event ±',
    title: 'one deviation of each announcement between the expiry before and this one',
    write: (value) => figures.percent(value, 2),
    change: (value) => figures.signed(100 * value, 2),
  },
  {
    id: 'straddleMove',
    label: 'straddle',
    title: 'expected move by the at-the-money straddle',
    write: money,
    change: (value, decimals) => figures.signed(value, decimals),
  },
  {
    id: 'deviationMove',
    label: '±1 dev.',
    title: 'one deviation by the vol at the money',
    write: money,
    change: (value, decimals) => figures.signed(value, decimals),
  },
  {
    id: 'forward',
    label: 'forward',
    title: 'of the expiry',
    write: money,
    change: (value, decimals) => figures.signed(value, decimals),
  },
];

const FIXED_DAYS = [7, 30, 60, 90, 180, 360] as const;
const DAYS_PER_YEAR = 365;

interface Measured {
  expiries: readonly (MeasurableExpiry & { curve: Curve })[];
  values: MeasureValues[];
}

function measured(all: readonly MeasurableExpiry[], events: readonly number[]): Measured {
  const expiries = usedExpiries({ expiries: all });
  const term = termMeasures(expiries, events);
  const values = expiries.map((one, i): MeasureValues => {
    const { years: _years, ...curve } = timedMeasures(one);
    const { forward, straddleMove, deviationMove } = one;
    return { ...curve, ...term[i]!, forward, straddleMove, deviationMove };
  });
  return { expiries, values };
}

function fixedValues({ expiries }: Measured, days: number): MeasureValues {
  const { years: _years, ...curve } = maturityMeasures(expiries, days / DAYS_PER_YEAR);
  const none = {
    forward: NaN,
    forwardVol: NaN,
    ambientVol: NaN,
    eventMove: NaN,
    straddleMove: NaN,
    deviationMove: NaN,
  };
  return { ...curve, ...none };
}

/**
 * Measures of every expiry in use, and of fixed numbers of days between the first and the last.
 *
 * @param events announcements in years from the moment
 * @param ghost the expiries and the announcements of another moment
 * @param past frames of the last sessions, for the small lines
 */
export function measureRows(
  all: readonly MeasurableExpiry[],
  events: readonly number[],
  ghost: { expiries: readonly MeasurableExpiry[]; events: readonly number[] } | null,
  past: readonly Frame[],
): MeasureRow[] {
  const now = measured(all, events);
  const then = ghost && measured(ghost.expiries, ghost.events);
  const listed = now.expiries.map((one, i): MeasureRow => {
    const at = then?.expiries.findIndex((other) => isSameExpiry(other, one));
    return {
      key: expiryName(one),
      name: shortExpiry(one),
      of: { expiry: one.expiry, settlement: one.settlement },
      days: one.days,
      values: now.values[i]!,
      borrowedFrom: one.borrowed ? `${one.borrowed.source} ${one.borrowed.takenFrom}` : (one.borrowedFrom ?? null),
      before: (at === undefined ? undefined : then?.values[at]) ?? null,
      spark: past.map(({ expiries }) => expiries.find((other) => isSameExpiry(other, one))?.atmVol ?? NaN),
    };
  });
  const [first, last] = [now.expiries[0]?.days ?? Infinity, now.expiries.at(-1)?.days ?? 0];
  const fixed = FIXED_DAYS.filter((days) => days >= first && days <= last).map((days): MeasureRow => ({
    key: String(days),
    name: `${days} days`,
    of: null,
    days,
    values: fixedValues(now, days),
    borrowedFrom: null,
    before: then && then.expiries.length > 0 ? fixedValues(then, days) : null,
    spark: past.map(({ expiries }) =>
      constantMaturityVol(
        usedExpiries({ expiries }).map(({ years, atmVol }) => ({ years, vol: atmVol })),
        days / DAYS_PER_YEAR,
      ),
    ),
  }));
  return [...listed, ...fixed];
}

/** What rows can be sorted by. */
export const MEASURE_ORDERS: readonly SortColumn<MeasureRow>[] = [
  { id: 'days', value: ({ days }) => days },
  ...MEASURES.map(({ id }) => ({ id, value: ({ values }: MeasureRow) => values[id] })),
];

const snakeCase = (id: string) => id.replace(/[A-Z]|\d+/g, (part) => `_${part.toLowerCase()}`);

/** The rows as a file has them, with those of the ghost beside. */
export function measuresTable(
  rows: readonly MeasureRow[],
  { symbol, asof }: { symbol: string; asof: string },
  decimals: number,
): DataTable {
  return {
    columns: [
      { name: 'asof', type: 'instant' },
      { name: 'symbol', type: 'text' },
      { name: 'expiry', type: 'day' },
      { name: 'settlement', type: 'text' },
      { name: 'days', type: 'number', write: figures.days },
      { name: 'lean', type: 'text' },
      { name: 'borrowed_from', type: 'text' },
      ...MEASURES.map(({ id, label, write }) => ({
        name: snakeCase(id),
        label,
        type: 'number' as const,
        write: (value: number) => write(value, decimals),
      })),
      ...MEASURES.map(({ id, label, write }) => ({
        name: `ghost_${snakeCase(id)}`,
        label: `${label} of the ghost`,
        type: 'number' as const,
        write: (value: number) => write(value, decimals),
      })),
    ],
    rows: rows.map(({ of, days, values, before, borrowedFrom }) => [
      ...[
        asof,
        symbol,
        of?.expiry ?? null,
        of?.settlement ?? null,
        days,
        leanWords(values.riskReversal25),
        borrowedFrom,
      ],
      ...MEASURES.map(({ id }) => values[id]),
      ...MEASURES.map(({ id }) => before?.[id] ?? null),
    ]),
  };
}

/** What has changed most since the ghost, or which expiry stands out of the line between its neighbours. */
export function measuresSentence(rows: readonly MeasureRow[], ghostDay: string | null): Sentence {
  const listed = rows.filter(({ of }) => of !== null);
  const [first] = listed;
  if (!first) return { lead: 'Nothing to measure.', rest: 'No expiry in use has a curve.' };
  if (ghostDay !== null) {
    const changed = listed
      .filter(({ before }) => before !== null)
      .map((row) => ({
        row,
        change: row.values.atmVol - row.before!.atmVol,
        lean: row.values.riskReversal25 - row.before!.riskReversal25,
      }))
      .toSorted((a, b) => Math.abs(b.change) - Math.abs(a.change));
    const [most] = changed;
    if (!most) return { lead: 'Nothing to compare.', rest: `None of these expiries was listed on ${ghostDay}.` };
    return {
      lead: `Since ${ghostDay} ${most.row.name} has moved most, by ${points(most.change)} points at the money;`,
      rest: `its risk reversal by ${points(most.lean)}.`,
    };
  }
  // The next one is the one that is traded.
  const event = listed.find(({ values }) => values.eventMove > 0);
  const steepest = listed.toSorted((a, b) => Math.abs(b.values.slope) - Math.abs(a.values.slope))[0]!;
  const slope = `Steepest at the money is ${steepest.name}, ${figures.volChange(steepest.values.slope, 2)} points for ten delta.`;
  if (!event) return { lead: slope, rest: 'No announcement carries variance of its own.' };
  return {
    lead: `Before ${event.name} an announcement is worth ±${figures.percent(event.values.eventMove, 1)},`,
    rest: `over ${figures.vol(event.values.ambientVol)} % of the other days. ${slope}`,
  };
}

/** Which side of a skew is dear; nothing where a curve says one vol only. */
export function leanWords(riskReversal: number): string {
  return Number.isFinite(riskReversal) ? leanOf(riskReversal) : figures.NOTHING;
}
