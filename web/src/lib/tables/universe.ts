import { calendarById, dayOf } from '@umwelt/core';
import type { UniverseRow } from '$lib/state/api';
import type { DataTable } from './data-table';
import type { SortColumn } from './sorting';

export interface UniverseColumn extends SortColumn<UniverseRow> {
  label: string;
  title: string;
  /** The same as a formula, by which it can be limited; vols and shares are typed in per cent. */
  limit?: { formula: string; isPercent: boolean };
}

/** iv30 less hv20, a decimal. */
export function gapOf(row: UniverseRow): number | null {
  return row.iv30 !== null && row.hv20 !== null ? row.iv30 - row.hv20 : null;
}

export const UNIVERSE_COLUMNS: readonly UniverseColumn[] = [
  { id: 'symbol', label: 'underlying', title: 'symbol and name', value: (row) => row.symbol },
  {
    id: 'price',
    label: 'price',
    title: 'price at the as-of',
    value: (row) => row.price,
    limit: { formula: 'price', isPercent: false },
  },
  { id: 'change', label: 'day %', title: 'from the close of the session before', value: (row) => row.change },
  { id: 'series', label: 'iv30, held', title: 'iv30 over the sessions held', value: (row) => row.series.length },
  {
    id: 'iv30',
    label: 'iv30',
    title: '30-day at-the-money vol, points',
    value: (row) => row.iv30,
    limit: { formula: 'iv30', isPercent: true },
  },
  {
    id: 'rank',
    label: 'rank',
    title: 'of iv30: (now − low) ÷ (high − low) over the sessions held',
    value: (row) => row.rank,
    limit: { formula: 'rank(iv30, 252)', isPercent: true },
  },
  {
    id: 'percentile',
    label: 'pct',
    title: 'share of the sessions before whose iv30 was lower',
    value: (row) => row.percentile,
    limit: { formula: 'pct(iv30, 252)', isPercent: true },
  },
  {
    id: 'hv20',
    label: 'hv20',
    title: 'historical vol over 20 sessions, Yang–Zhang',
    value: (row) => row.hv20,
    limit: { formula: 'hv20.yz', isPercent: true },
  },
  {
    id: 'ivToHv',
    label: 'IV/HV',
    title: 'iv30 ÷ hv20',
    value: (row) => row.ivToHv,
    limit: { formula: 'iv30 / hv20.yz', isPercent: false },
  },
  {
    id: 'gap',
    label: 'gap',
    title: 'iv30 less hv20, points',
    value: gapOf,
    limit: { formula: 'iv30 - hv20.yz', isPercent: true },
  },
  {
    id: 'termSlope',
    label: 'term',
    title: '90-day less 30-day vol, points',
    value: (row) => row.termSlope,
    limit: { formula: 'slope', isPercent: true },
  },
  {
    id: 'riskReversal25',
    label: 'RR 25',
    title: '25-delta call vol less put vol at 30 days, points',
    value: (row) => row.riskReversal25,
    limit: { formula: 'rr25', isPercent: true },
  },
  {
    id: 'frontMove',
    label: 'move, front',
    title: 'at-the-money straddle of the front expiry',
    value: (row) => row.frontStraddleMove,
    limit: { formula: 'move', isPercent: false },
  },
  {
    id: 'volume',
    label: 'opt. volume',
    title: 'contracts traded in the session',
    value: (row) => row.volume,
    limit: { formula: 'volume', isPercent: false },
  },
  {
    id: 'openInterest',
    label: 'open int.',
    title: 'contracts open',
    value: (row) => row.openInterest,
    limit: { formula: 'oi', isPercent: false },
  },
  {
    id: 'quality',
    label: 'quality',
    title: 'of the quotes, from 0 to 100',
    value: (row) => row.quality,
    limit: { formula: 'quality', isPercent: false },
  },
];

/**
 * The columns as a file has them; the series behind the sparks are the history of each underlying.
 *
 * @param computed columns of formulas, with their values by symbol
 */
export function universeTable(
  rows: readonly UniverseRow[],
  computed: readonly { formula: string; values: ReadonlyMap<string, number | null> }[] = [],
): DataTable {
  const columns = UNIVERSE_COLUMNS.filter(({ id }) => id !== 'series' && id !== 'symbol');
  return {
    columns: [
      { name: 'symbol', type: 'text' },
      { name: 'name', type: 'text' },
      { name: 'asof', type: 'instant' },
      ...columns.map(({ id }) => ({ name: snakeCase(id), type: 'number' }) as const),
      ...computed.map(({ formula }) => ({ name: formula, type: 'number' }) as const),
    ],
    rows: rows.map((row) => [
      ...[row.symbol, row.name, row.asof],
      ...columns.map(({ value }) => value(row)),
      ...computed.map(({ values }) => values.get(row.symbol) ?? null),
    ]),
  };
}

const snakeCase = (id: string) => id.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`);

/**
 * The rows with the prices of a feed that is further on than they are. Until something of its session is stored, the
 * close before is not known, and neither is the change.
 */
export function withPrices(
  rows: readonly UniverseRow[],
  feed: { moment: string; prices: Readonly<Record<string, number>> } | null,
): readonly UniverseRow[] {
  if (!feed) return rows;
  return rows.map((row) => {
    const price = feed.prices[row.symbol];
    if (price === undefined || row.asof === null || row.asof > feed.moment) return row;
    const calendar = calendarById(row.calendar);
    const isSameSession = dayOf(calendar, Date.parse(row.asof)) === dayOf(calendar, Date.parse(feed.moment));
    const before = isSameSession ? row.closeBefore : null;
    return { ...row, price, change: before === null ? null : price / before - 1 };
  });
}
