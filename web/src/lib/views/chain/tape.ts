import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';
import { type TapeLegs, type TapeSides } from './params';
import { numberColumns, type DataTable } from '$lib/tables';

export type Tape = z.infer<typeof schemas.TapeResponse>;
export type Print = Tape['prints'][number];

/** Prints that are loaded at most. */
export const MOST_PRINTS = 5000;

/** The last prints of the session up to a moment that are meant. */
export function loadTape(
  symbol: string,
  to: string,
  { size, legs, against }: { size: number; legs: TapeLegs; against: TapeSides },
): Promise<Tape> {
  const query = { to, legs, against, most: MOST_PRINTS, size: size > 0 ? size : null };
  return call('GET /underlyings/{symbol}/prints', { path: { symbol }, query });
}

/** By how much a print was over theory at its time; NaN where there was none. */
export function distanceOf({ price, theory }: Pick<Print, 'price' | 'theory'>): number {
  return price - (theory ?? NaN);
}

/** Where in the spread of its time a print was. */
export function placeWords({ price, bid, ask }: Pick<Print, 'price' | 'bid' | 'ask'>): string {
  if (bid === null || ask === null) return 'nothing was quoted then';
  if (price >= ask) return price > ask ? 'over the ask' : 'at the ask';
  if (price <= bid) return price < bid ? 'under the bid' : 'at the bid';
  return 'between bid and ask';
}

/** The prints as a file. */
export function tapeTable(prints: readonly Print[]): DataTable {
  return {
    columns: [
      { name: 'time', type: 'instant' },
      { name: 'expiry', type: 'day' },
      ...numberColumns(['strike']),
      { name: 'side', type: 'text' },
      ...numberColumns(['price', 'size', 'theory', 'distance', 'bid', 'ask']),
      { name: 'group', type: 'text' },
      { name: 'settlement', type: 'text' },
    ],
    rows: prints.map((print) => [
      ...[print.time, print.expiry, print.strike, print.side === 'call' ? 'C' : 'P', print.price, print.size],
      ...[print.theory, distanceOf(print), print.bid, print.ask, print.group ?? '', print.settlement ?? ''],
    ]),
  };
}
