import Big from 'big.js';
import {
  contractKey,
  dayOf,
  expiryInstant,
  instantOf,
  isSession,
  isUnderlying,
  positionAt,
  calendarById,
  type ContractId,
  type Settlement,
  type Side,
} from '@umwelt/core';
import { and, between, eq, sql } from 'drizzle-orm';
import { tables, type Queryable, type Session } from '../db';
import { findUnderlying, heldExpiry } from '../market/queries';
import type { Underlying } from '../market/terms';
import type { BookEdit } from './edit';
import { BookFacts, contractOf, ledgerFills, settledAs } from './facts';

const { bookPositions, fills, slices } = tables;

/** A trade as it was asked to be booked. */
export interface FillGiven {
  time: string;
  leg: {
    symbol?: string | undefined;
    underlying?: true | undefined;
    expiry?: string | undefined;
    settlement?: Settlement | undefined;
    strike?: number | undefined;
    side?: Side | undefined;
  };
  quantity: number;
  price: number;
  fee: number;
  tag: string;
  closes: boolean;
  assigned: boolean;
}

/** Why a trade cannot be booked: where in the request, and what is wrong. */
export class BookingError extends Error {
  constructor(
    readonly path: string,
    readonly reason: string,
  ) {
    super(`${path}: ${reason}`);
  }
}

const DAY_MS = 86_400_000;

/** Whether a contract is listed on the day of a trade; true where no quotes of that day are held. */
async function isListedOn(
  session: Queryable,
  contract: Exclude<ContractId, { underlying: true }>,
  open: number,
): Promise<boolean> {
  const { symbol, expiry, settlement, strike } = contract;
  const [row] = await session
    .select({
      held: sql<boolean>`count(*) > 0`,
      isListed: sql<boolean>`coalesce(bool_or(${slices.expiry} = ${expiry} AND ${slices.settlement} = ${settlement}
        AND ${strike}::float8 = ANY(${slices.strike})), false)`,
    })
    .from(slices)
    .where(and(eq(slices.symbol, symbol), between(slices.asof, new Date(open), new Date(open + DAY_MS))));
  return !row!.held || row!.isListed;
}

/** The contract that a trade is of. @throws BookingError naming what cannot be */
async function tradedContract(
  session: Queryable,
  symbol: string,
  { leg, time, assigned, price, closes }: FillGiven,
  path: string,
): Promise<{ contract: ContractId; underlying: Underlying }> {
  const named = leg.symbol ?? symbol;
  const at = (field: string) => `${path}.leg.${field}`;
  const underlying = await findUnderlying(session, named);
  if (!underlying) throw new BookingError(at('symbol'), `${named} is no known underlying`);
  const calendar = calendarById(underlying.calendar);
  const instant = Date.parse(time);
  const day = dayOf(calendar, instant);
  if (!isSession(calendar, day)) throw new BookingError(`${path}.time`, `${day} is no session of the exchange`);
  if (leg.underlying) {
    if (underlying.kind === 'index')
      throw new BookingError(at('underlying'), `${named} is an index, which cannot be traded`);
    if (assigned) throw new BookingError(`${path}.assigned`, 'only an option is assigned');
    return { contract: { symbol: named, underlying: true }, underlying };
  }
  const { expiry = '', settlement = null, strike = NaN, side = 'call' } = leg;
  const contract = { symbol: named, ...(await heldExpiry(session, named, { expiry, settlement })), strike, side };
  if (instant > expiryInstant(calendar, expiry, contract.settlement))
    throw new BookingError(`${path}.time`, `is after the expiry of ${expiry}`);
  // What is closed was listed, maybe in other terms.
  if (!closes && !assigned && !(await isListedOn(session, contract, instantOf(calendar, day, '00:00'))))
    throw new BookingError(at('strike'), `${expiry} ${strike} ${side} is not listed on ${day}`);
  if (assigned && price !== 0) throw new BookingError(`${path}.price`, 'what is assigned has a price of 0');
  return { contract, underlying };
}

/** What a position holds of a contract at a moment. */
async function heldOf(session: Queryable, positionId: number, contract: ContractId, moment: number): Promise<Big> {
  const stored = await session
    .select()
    .from(fills)
    .where(eq(fills.positionId, positionId))
    .orderBy(fills.time, fills.id);
  const rows = await settledAs(session, stored);
  const facts = await BookFacts.read(session, [...rows.map(contractOf), contract]);
  const { legs } = positionAt(ledgerFills(rows), facts, moment);
  return legs.find((leg) => contractKey(leg.contract) === contractKey(contract))?.quantity ?? new Big(0);
}

/**
 * Books trades of a position, each checked as the ones before it have been booked.
 *
 * @throws BookingError naming the first that cannot be
 */
export async function bookTrades(
  edit: BookEdit,
  position: { id: number; symbol: string },
  given: readonly FillGiven[],
  pathOf: (at: number) => string,
): Promise<number[]> {
  const ids: number[] = [];
  for (const [at, one] of given.entries()) {
    const path = pathOf(at);
    const { contract } = await tradedContract(edit.session, position.symbol, one, path);
    const time = new Date(one.time);
    if (one.closes || one.assigned) {
      const held = await heldOf(edit.session, position.id, contract, time.getTime());
      const isAgainst = held.times(one.quantity).lt(0);
      if (one.assigned && held.gte(0)) throw new BookingError(`${path}.assigned`, 'only what was sold is assigned');
      if (!isAgainst || held.abs().lt(Math.abs(one.quantity)))
        throw new BookingError(
          `${path}.quantity`,
          `${one.quantity} is beyond what is open: ${held.toFixed()} of ${words(contract)}`,
        );
    }
    ids.push(
      await edit.insert('fills', {
        ...{ positionId: position.id, time, symbol: contract.symbol },
        ...(isUnderlying(contract)
          ? {}
          : {
              expiry: contract.expiry,
              settlement: contract.settlement,
              strike: new Big(contract.strike).toFixed(),
              side: contract.side,
            }),
        ...{ quantity: decimal(one.quantity), price: decimal(one.price), fee: decimal(one.fee) },
        ...{ isAssigned: one.assigned, tag: one.tag },
      }),
    );
  }
  return ids;
}

export const decimal = (value: number): string => new Big(value).toFixed();

/** A contract in words. */
export function words(contract: ContractId): string {
  if (isUnderlying(contract)) return contract.symbol;
  const { symbol, expiry, strike, side } = contract;
  return `${symbol} ${expiry} ${strike} ${side}`;
}

/** A position with its book; null where there is none. */
export async function findPosition(session: Session | Queryable, id: number) {
  const [row] = await session.select().from(bookPositions).where(eq(bookPositions.id, id));
  return row ?? null;
}
