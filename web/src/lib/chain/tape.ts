import type { z } from 'zod';
import type { schemas } from '$lib/server/api';
import { ask } from '$lib/state/api';
import type { TapeLegs, TapeSides } from '$lib/state/context';
import { numberColumns, type DataTable } from '$lib/tables';

export type Tape = z.infer<typeof schemas.TapeResponse>;
export type Print = Tape['prints'][number];

/** Prints that are loaded at most. */
export const MOST_PRINTS = 5000;

/** The last prints of the session up to a moment; without one up to the latest. */
export function loadTape(symbol: string, to: string | null, size: number, legs: TapeLegs): Promise<Tape> {
  const query = new URLSearchParams({ most: String(MOST_PRINTS), legs });
  if (to) query.set('to', to);
  if (size > 0) query.set('size', String(size));
  return ask(`/underlyings/${encodeURIComponent(symbol)}/prints?${query}`);
}

/** By how much a print was over theory at its time; NaN where there was none. */
export function distanceOf({ price, theory }: Pick<Print, 'price' | 'theory'>): number {
  return price - (theory ?? NaN);
}

/** Those above or below theory. */
export function printsAgainst(prints: readonly Print[], sides: TapeSides): readonly Print[] {
  if (sides === 'all') return prints;
  return prints.filter((print) => (sides === 'above' ? distanceOf(print) > 0 : distanceOf(print) < 0));
}

/** What was traded above and below theory: contracts, and by how much on average, weighted by size. */
export function tapeBalance(prints: readonly Print[]): { above: number; below: number; mean: number } {
  let [above, below, sum, size] = [0, 0, 0, 0];
  for (const print of prints) {
    const distance = distanceOf(print);
    if (!Number.isFinite(distance)) continue;
    if (distance > 0) above += print.size;
    if (distance < 0) below += print.size;
    sum += distance * print.size;
    size += print.size;
  }
  return { above, below, mean: sum / size };
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
    ],
    rows: prints.map((print) => [
      ...[print.time, print.expiry, print.strike, print.side === 'call' ? 'C' : 'P', print.price, print.size],
      ...[print.theory, distanceOf(print), print.bid, print.ask, print.group ?? ''],
    ]),
  };
}
