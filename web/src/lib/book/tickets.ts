import { isUnderlying, sideOf, type ContractId, type NamedLeg } from '@umwelt/core';
import type { LoadedSnapshot } from '$lib/data';
import { figures, shortExpiry } from '$lib/formats';
import { loadSnapshot, loadSummaries, momentIndex } from '$lib/state';

/** A trade that is about to be booked: what of, how many, and between which quotes. */
export interface TicketRow {
  contract: ContractId;
  quantity: number;
  bid: number;
  ask: number;
  /** What it is booked at, whatever the quotes say. */
  price?: number;
  closes?: boolean;
  isAssigned?: boolean;
}

/** What is about to be booked as one. */
export interface Ticket {
  title: string;
  symbol: string;
  /** What a new position is called. */
  name: string;
  /** Of the position that it belongs to; null for a new one. */
  positionId: number | null;
  /** What the change is called in the journal; as the trades have it unless given. */
  words?: string;
  /** Of the market that it is booked at. */
  asof: string;
  rows: TicketRow[];
  /** Whether contracts are named by hand. */
  isByHand?: boolean;
}

/** At what a trade is booked: bought at the ask and sold at the bid, at the middle, or the other way round. */
export const FILLS = ['worst', 'mid', 'best'] as const;
export type FillAt = (typeof FILLS)[number];

/** Decimals that a price is booked with. */
const PRICE_DIGITS = 6;

/** What a trade is booked at; NaN where it has no quotes. */
export function priceOf({ price, quantity, bid, ask }: TicketRow, fill: FillAt): number {
  if (price !== undefined) return price;
  const [mid, half] = [0.5 * (bid + ask), 0.5 * (ask - bid) * Math.sign(quantity)];
  const at = mid + { worst: 1, mid: 0, best: -1 }[fill] * half;
  return Number(at.toFixed(PRICE_DIGITS));
}

/** A contract in words, short. */
export function contractWords(contract: ContractId): string {
  if (isUnderlying(contract)) return contract.symbol;
  return `${shortExpiry(contract)} ${figures.strike(contract.strike)} ${contract.side}`;
}

/** Bid and ask of a contract in a snapshot; NaN where it is not listed. */
export function quoteIn(
  { slices, price }: Pick<LoadedSnapshot, 'slices' | 'price'>,
  contract: ContractId,
): { bid: number; ask: number } {
  if (isUnderlying(contract)) return { bid: price, ask: price };
  const slice = slices.find((one) => one.expiry === contract.expiry && one.settlement === contract.settlement);
  const at = slice?.strike.indexOf(contract.strike) ?? -1;
  if (!slice || at < 0) return { bid: NaN, ask: NaN };
  const { bid, ask } = sideOf(slice, contract.side);
  return { bid: bid[at]!, ask: ask[at]! };
}

/** The snapshot of an underlying at a moment or at the last before it; null where none is held. */
export async function snapshotAt(symbol: string, asof: string): Promise<LoadedSnapshot | null> {
  const summaries = await loadSummaries(symbol);
  const found = summaries[momentIndex(summaries, asof)];
  return found ? loadSnapshot(symbol, found.asof) : null;
}

/** What a new position of some legs is called: of one kind, or by how many they are. */
export function nameOfLegs(symbol: string, legs: readonly NamedLeg[], held: number): string {
  const [first] = legs;
  if (legs.length === 0) return `${symbol} itself`;
  if (legs.length === 1 && held === 0) return `${symbol} ${first!.quantity > 0 ? 'bought' : 'sold'} ${first!.side}s`;
  const sides = new Set(legs.map(({ side }) => side));
  const expiries = new Set(legs.map(({ expiry }) => expiry));
  const strikes = new Set(legs.map(({ strike }) => strike));
  const isSold = legs.every(({ quantity }) => quantity < 0);
  const isBought = legs.every(({ quantity }) => quantity > 0);
  const did = isSold ? 'sold ' : isBought ? 'bought ' : '';
  if (held !== 0) return `${symbol} with the underlying`;
  if (legs.length === 2 && sides.size === 2 && expiries.size === 1 && did)
    return `${symbol} ${did}${strikes.size === 1 ? 'straddle' : 'strangle'}`;
  if (legs.length === 2 && sides.size === 1 && expiries.size === 2)
    return `${symbol} ${first!.side} ${strikes.size === 1 ? 'calendar' : 'diagonal'}`;
  if (legs.length === 2 && sides.size === 1 && !did) return `${symbol} ${first!.side} vertical`;
  if (legs.length === 4 && sides.size === 2 && expiries.size === 1) return `${symbol} iron condor`;
  return `${symbol} of ${legs.length} legs`;
}

/**
 * Legs with what is held of the underlying as a ticket.
 *
 * @param unit of the underlying for one that is traded: a future is on as many as its option
 * @param others snapshots of other deliveries that legs are of
 */
export function ticketOfLegs(
  snapshot: LoadedSnapshot,
  legs: readonly NamedLeg[],
  held: number,
  unit: number,
  others: ReadonlyMap<string, LoadedSnapshot> = new Map(),
): Ticket {
  const { symbol, asof } = snapshot;
  const rows = legs.map((leg): TicketRow => {
    const contract: ContractId = {
      ...{ symbol: leg.symbol, expiry: leg.expiry, strike: leg.strike, side: leg.side },
      settlement: leg.settlement ?? 'pm',
    };
    const listed = leg.symbol === symbol ? snapshot : others.get(leg.symbol);
    return { contract, quantity: leg.quantity, ...(listed ? quoteIn(listed, contract) : { bid: NaN, ask: NaN }) };
  });
  const itself: ContractId = { symbol, underlying: true };
  if (held !== 0) rows.push({ contract: itself, quantity: held / unit, ...quoteIn(snapshot, itself) });
  return { title: 'Into the book', symbol, name: nameOfLegs(symbol, legs, held), positionId: null, asof, rows };
}
