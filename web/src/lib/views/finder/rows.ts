import { isOptionLeg, type FinderMeasure, type FoundRow, type NamedLeg } from '@umwelt/core';
import { figures, shortExpiry } from '$lib/formats';
import type { DataTable } from '$lib/tables';
import { KIND_WORDS, TOLD, written } from './measures';
import { weaknessesOf } from './weakest';

const MARKS = { put: '▽', call: '△' } as const;

/** What a row is called, and in which expiry. */
export function nameOf({ kind, legs }: FoundRow): string {
  const options = legs.filter(isOptionLeg);
  const expiries = [...new Set(options.map((leg) => shortExpiry(leg)))];
  const [first] = options;
  const isSingle = options.length === 1 && first;
  const way = isSingle || kind === 'straddle' || kind === 'strangle' ? (first!.quantity > 0 ? 'bought ' : 'sold ') : '';
  return `${way}${KIND_WORDS[kind]} ${expiries.join(' / ')}`;
}

/** Strikes of a row as people write them: 77.5/85▽ 107.5/115△. */
export function strikesOf({ legs }: FoundRow): string {
  const options = legs.filter(isOptionLeg);
  return (['put', 'call'] as const)
    .flatMap((side) => {
      const own = options.filter((leg) => leg.side === side);
      if (own.length === 0) return [];
      const words = own.map(({ strike, quantity }) => {
        const size = Math.abs(quantity);
        return `${size > 1 ? `${size}×` : ''}${figures.strike(strike)}`;
      });
      return [`${words.join('/')}${MARKS[side]}`];
    })
    .join(' ');
}

/** What tells rows apart. */
export const keyOf = ({ symbol, legs }: FoundRow): string =>
  `${symbol} ${legs
    .map((leg) =>
      isOptionLeg(leg) ? `${leg.quantity}${leg.side[0]}${leg.strike}@${leg.expiry}${leg.settlement}` : 'held',
    )
    .join(',')}`;

/** Legs of a row as they are taken in hand, and units of the underlying beside them. */
export function inHand({ symbol, legs, multiplier }: FoundRow): { legs: NamedLeg[]; held: number } {
  return {
    legs: legs.filter(isOptionLeg).map(({ expiry, settlement, strike, side, quantity }) => ({
      ...{ symbol, expiry, settlement, strike, side, quantity },
    })),
    held: legs.reduce((sum, leg) => sum + (isOptionLeg(leg) ? 0 : leg.quantity * multiplier), 0),
  };
}

/** Where Structure enters what is in hand at the fill of the Finder. @param query what the address says now */
export function structureAddress(query: string, slip: number, fee: number): string {
  const asked = new URLSearchParams(query);
  if (slip !== 0) asked.set('fill', String(slip));
  if (fee !== 0) asked.set('fee', String(fee));
  return `/structure?${asked}`;
}

/** Rows as a file and the clipboard have them. */
export function rowsTable(rows: readonly FoundRow[], columns: readonly FinderMeasure[]): DataTable {
  return {
    columns: [
      { name: 'score', type: 'number', write: (value) => figures.fixed(value as number, 1) },
      { name: 'symbol', type: 'text' },
      { name: 'structure', type: 'text' },
      { name: 'strikes', type: 'text' },
      ...columns.map((measure) => ({
        ...{ name: measure, label: TOLD[measure].label, type: 'number' as const },
        write: (value: unknown) => written(measure, value as number),
      })),
      { name: 'weakest', type: 'text' },
      { name: 'became', type: 'number' },
    ],
    rows: rows.map((row) => [
      ...[row.score, row.symbol, nameOf(row), strikesOf(row)],
      ...columns.map((measure) => finite(row.measures[measure])),
      weaknessesOf(row)[0]?.short ?? '',
      finite(row.became),
    ]),
  };
}

const finite = (value: number) => (Number.isFinite(value) ? value : null);

const RISING = '|rising';

/** What the text of an order says; null where rows are in the order of their scores. */
export function orderOf(sort: string): { key: string; isRising: boolean } | null {
  if (sort === '') return null;
  const isRising = sort.endsWith(RISING);
  return { key: isRising ? sort.slice(0, -RISING.length) : sort, isRising };
}

/** The order after a click on a head: falling, then rising, then by score again. */
export function nextOrder(sort: string, key: string): string {
  const now = orderOf(sort);
  if (now?.key !== key) return key;
  return now.isRising ? '' : `${key}${RISING}`;
}

/** Rows in an order, those without a value last. */
export function inOrder(rows: readonly FoundRow[], sort: string): readonly FoundRow[] {
  const order = orderOf(sort);
  if (!order) return rows;
  const valueOf = (row: FoundRow) =>
    order.key === 'became' ? row.became : (row.measures[order.key as FinderMeasure] ?? NaN);
  const sign = order.isRising ? 1 : -1;
  return rows.toSorted((a, b) => {
    const [x, y] = [valueOf(a), valueOf(b)];
    return Number(Number.isNaN(x)) - Number(Number.isNaN(y)) || (x === y ? 0 : sign * (x < y ? -1 : 1));
  });
}

/** Things by what they have in common, in the order in which that comes first. */
export function grouped<T>(all: readonly T[], groupOf: (one: T) => string): [group: string, own: T[]][] {
  const groups = new Map<string, T[]>();
  for (const one of all) {
    const group = groupOf(one);
    const known = groups.get(group);
    if (known) known.push(one);
    else groups.set(group, [one]);
  }
  return [...groups];
}
