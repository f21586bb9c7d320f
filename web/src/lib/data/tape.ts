import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';

export type Tape = z.infer<typeof schemas.TapeResponse>;
export type Print = Tape['prints'][number];

/** Which prints are meant: all, trades of one leg, or legs of trades of several. */
export const TAPE_LEGS = ['all', 'single', 'several'] as const;
export type TapeLegs = (typeof TAPE_LEGS)[number];
/** Against theory at their time. */
export const TAPE_SIDES = ['all', 'above', 'below'] as const;
export type TapeSides = (typeof TAPE_SIDES)[number];

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
