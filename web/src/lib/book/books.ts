import { MOVED_GREEKS, orNaN, type ContractId, type HeldLeg, type Mark, type MarkGreeks } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';

export type Book = z.infer<typeof schemas.BooksResponse>['books'][number];
export type Worth = z.infer<typeof schemas.WorthResponse>;
export type Position = Worth['positions'][number];
export type BookLeg = Worth['legs'][number];
export type PositionDetail = z.infer<typeof schemas.PositionResponse>;
export type Fill = PositionDetail['fills'][number];
export type Scenario = z.infer<typeof schemas.BookScenarioResponse>;
export type Explained = z.infer<typeof schemas.ExplainResponse>;
export type Replay = z.infer<typeof schemas.ReplayResponse>;
export type Booked = z.infer<typeof schemas.BookedResponse>;
/** A trade as it is asked to be booked. */
export type FillGiven = z.input<typeof schemas.FillsRequest>['fills'][number];

/** All books. */
export const loadBooks = async (signal?: AbortSignal): Promise<Book[]> => (await call('GET /books', { signal })).books;

/** The contract of a leg or of a fill. */
export function contractOf({
  symbol,
  expiry,
  settlement,
  strike,
  side,
}: Pick<BookLeg, 'symbol' | 'expiry' | 'settlement' | 'strike' | 'side'>): ContractId {
  if (expiry === null || strike === null || side === null) return { symbol, underlying: true };
  return { symbol, expiry, settlement: settlement ?? 'pm', strike, side };
}

/** A contract as a request names it. */
export function legOf(contract: ContractId): FillGiven['leg'] {
  if ('underlying' in contract) return { symbol: contract.symbol, underlying: true };
  const { symbol, expiry, settlement, strike, side } = contract;
  return { symbol, expiry, settlement, strike, side };
}

/** A leg with the beta of its underlying, and how its family is told. */
export interface RiskLeg extends HeldLeg {
  readonly row: BookLeg;
}

/** A leg as its risks are told. */
export function heldLegOf(row: BookLeg): RiskLeg {
  const isKnown = row.missing === null && row.quantity !== 0;
  const greeks = Object.fromEntries(MOVED_GREEKS.map((name) => [name, orNaN(row[name])])) as unknown as MarkGreeks;
  const mark: Mark = {
    ...greeks,
    ...{ bid: orNaN(row.bid), ask: orNaN(row.ask), mid: orNaN(row.mid), theory: orNaN(row.theory) },
    ...{ vol: orNaN(row.vol), days: orNaN(row.days) },
  };
  return {
    ...{ row, position: row.position, contract: contractOf(row), family: row.family, quantity: row.quantity },
    money: row.multiplier * orNaN(row.exchange),
    price: orNaN(row.price),
    mark: isKnown ? mark : null,
    value: orNaN(row.value),
    ...{ sinceEntry: orNaN(row.sinceEntry), sinceClose: orNaN(row.sinceClose), sinceGhost: orNaN(row.sinceGhost) },
  };
}
