import {
  dayOf,
  isUnderlying,
  MOVED_GREEKS,
  orNull,
  previousSession,
  sessionClose,
  type HeldLeg,
  type LedgerLeg,
  type Mark,
  type MarkGreeks,
  type PositionState,
  type WorthBy,
} from '@umwelt/core';
import type { BookFacts } from './facts';
import type { HeldBook } from './held';
import type { KnownMarket, Markets } from '../market/known-markets';

export interface WorthAsked {
  /** Null: the last moment that is held. */
  asof: number | null;
  ghost: number | null;
  by: WorthBy;
}

/** A leg with what it takes to write it. */
export interface WorthLeg extends HeldLeg {
  readonly ledger: LedgerLeg;
  readonly multiplier: number;
  /** Money of the book for one of the currency of the underlying. */
  readonly exchange: number;
  /** Whether it is worth its curve since its quotes are no market. */
  readonly isByCurve: boolean;
  /** Why it is not known what it is worth; null where it is. */
  readonly missing: string | null;
  readonly market: KnownMarket | null;
}

/** A position at a moment; money in the currency of the book. */
export interface WorthPosition {
  readonly id: number;
  readonly state: PositionState;
  readonly legs: readonly WorthLeg[];
  readonly value: number;
  readonly open: number;
  readonly realized: number;
  readonly fees: number;
  readonly income: number;
  readonly sinceEntry: number;
  readonly sinceClose: number;
  readonly sinceGhost: number;
}

export interface BookWorth {
  readonly asof: number;
  readonly closeBefore: number;
  readonly ghost: number | null;
  readonly positions: readonly WorthPosition[];
  /** Currencies that no exchange rate is held for: what is in them is part of no sum. */
  readonly apart: readonly string[];
  /** Cash of the book, and the interest that it has earned. */
  readonly cash: number;
  readonly facts: BookFacts;
  readonly markets: ReadonlyMap<string, KnownMarket>;
}

/** What one unit of a contract is worth. */
function unitValue(mark: Mark, quantity: number, by: WorthBy): { value: number; isByCurve: boolean } {
  if (by === 'curve' || !Number.isFinite(mark.mid)) return { value: mark.theory, isByCurve: by !== 'curve' };
  if (by === 'mid') return { value: mark.mid, isByCurve: false };
  return { value: quantity > 0 ? mark.bid : mark.ask, isByCurve: false };
}

/** What a leg is worth and has brought at a moment, in the currency of its underlying; NaN where that is not known. */
function totalOf(leg: LedgerLeg, market: KnownMarket | undefined, by: WorthBy): number {
  const flowed = Number(leg.flowed);
  if (leg.lots.length === 0) return flowed;
  if (leg.isAwaiting || !market) return NaN;
  const quantity = Number(leg.quantity);
  return flowed + quantity * Number(leg.multiplier) * market.at.worth(leg.contract, quantity, by);
}

const NOTHING = 0;

/** Totals of legs at an earlier moment by their numbers; of one that was not begun then it is nothing. */
function totalsThen(
  { legs }: PositionState,
  markets: ReadonlyMap<string, KnownMarket>,
  by: WorthBy,
): ReadonlyMap<number, number> {
  return new Map(
    legs.flatMap((leg) => {
      const total = totalOf(leg, markets.get(leg.contract.symbol), by);
      // What was two contracts then is told under the first of its numbers.
      return leg.ids.map((id, i) => [id, i === 0 ? total : NOTHING] as const);
    }),
  );
}

const missingWords = (leg: LedgerLeg, market: KnownMarket | undefined): string => {
  if (leg.isAwaiting) return 'it has ended, and the price that it settled at is not known';
  if (!market) return `no quotes of ${leg.contract.symbol} are held at this moment`;
  return 'its expiry is not quoted at this moment';
};

/** What a unit of one currency is in another at some prices; null where no exchange rate is held. */
function exchangeOf(from: string | null, to: string, prices: ReadonlyMap<string, KnownMarket>): number | null {
  if (from === null || from === to) return 1;
  const priceOf = (symbol: string) => {
    const known = prices.get(symbol);
    const spot = known?.underlying.kind === 'fx' ? known.at.market.around.spot : NaN;
    return spot > 0 ? spot : null;
  };
  const straight = priceOf(`${from}${to}`);
  if (straight !== null) return straight;
  const inverse = priceOf(`${to}${from}`);
  return inverse === null ? null : 1 / inverse;
}

/** What a unit of the currency of each underlying is in that of a book at a moment; null where no exchange rate is held. */
export async function exchangesOf(
  markets: Markets,
  { underlyings }: BookFacts,
  currency: string,
  moment: number,
): Promise<ReadonlyMap<string, number | null>> {
  const isForeign = (one: { currency: string | null }) => one.currency !== null && one.currency !== currency;
  const pairs = [...underlyings.values()].some(isForeign)
    ? [...(await markets.underlyings()).values()].flatMap(({ kind, symbol }) => (kind === 'fx' ? [symbol] : []))
    : [];
  const prices = await markets.at(pairs, moment);
  return new Map(Array.from(underlyings, ([symbol, one]) => [symbol, exchangeOf(one.currency, currency, prices)]));
}

/** The contracts that a book has ever held, as they were traded. */
/** What a book is worth at a moment, and what it was at the close before and at the ghost. */
export async function bookWorth(markets: Markets, held: HeldBook, asked: WorthAsked): Promise<BookWorth> {
  const { stored, facts } = held;
  const { book } = stored;
  const symbols = [...facts.underlyings.keys()];
  const asof = asked.asof ?? (await markets.latest(symbols, null)) ?? Date.now();
  const calendar = facts.calendarOf(symbols[0] ?? '');
  const closeBefore = sessionClose(calendar, previousSession(calendar, dayOf(calendar, asof)));
  const { ghost } = asked;
  const [exchanges, now, before, then] = await Promise.all([
    exchangesOf(markets, facts, book.currency, asof),
    markets.at(symbols, asof),
    markets.at(symbols, closeBefore),
    ghost === null ? null : markets.at(symbols, ghost),
  ]);
  const positions = stored.positions.map(({ id, symbol: named }): WorthPosition => {
    const state = held.stateAt(id, asof);
    const atClose = totalsThen(held.stateAt(id, closeBefore), before, asked.by);
    const atGhost = ghost !== null && then ? totalsThen(held.stateAt(id, ghost), then, asked.by) : null;
    const legs = state.legs.map((ledger): WorthLeg => {
      const { symbol } = ledger.contract;
      const market = now.get(symbol);
      const underlying = facts.underlyings.get(symbol);
      const exchange = exchanges.get(symbol) ?? NaN;
      const mark = ledger.lots.length > 0 && !ledger.isAwaiting ? (market?.at.mark(ledger.contract) ?? null) : null;
      const quantity = Number(ledger.quantity);
      const multiplier = Number(ledger.multiplier);
      const unit = mark ? unitValue(mark, quantity, asked.by) : { value: NaN, isByCurve: false };
      const total = totalOf(ledger, market, asked.by);
      const sinceOf = (totals: ReadonlyMap<number, number>) =>
        exchange * (total - ledger.ids.reduce((sum, leg) => sum + (totals.get(leg) ?? NOTHING), 0));
      return {
        ...{ position: id, contract: ledger.contract, family: underlying?.family ?? symbol, quantity, mark, ledger },
        ...{ multiplier, exchange, money: multiplier * exchange, isByCurve: unit.isByCurve, market: market ?? null },
        price: market?.at.market.around.spot ?? NaN,
        value: quantity === 0 ? 0 : quantity * multiplier * exchange * unit.value,
        sinceEntry: exchange * total,
        sinceClose: sinceOf(atClose),
        sinceGhost: atGhost ? sinceOf(atGhost) : NaN,
        missing: quantity !== 0 && !mark ? missingWords(ledger, market) : null,
      };
    });
    const own = exchanges.get(named) ?? 1;
    const sum = (of: (leg: WorthLeg) => number) => legs.reduce((all, leg) => all + of(leg), 0);
    const value = sum((leg) => leg.value);
    return {
      ...{ id, state, legs, value },
      open: value - sum(({ ledger, exchange }) => exchange * Number(ledger.cost)),
      realized: own * Number(state.realized),
      fees: own * Number(state.fees),
      income: own * Number(state.income),
      sinceEntry: sum((leg) => leg.sinceEntry),
      sinceClose: sum((leg) => leg.sinceClose),
      sinceGhost: sum((leg) => leg.sinceGhost),
    };
  });
  const flowed = positions.flatMap(({ legs }) => legs).filter(({ exchange }) => Number.isFinite(exchange));
  const paidIn = stored.cash.reduce(
    (sum, { time, amount }) => (time.getTime() <= asof ? sum + Number(amount) : sum),
    0,
  );
  return {
    ...{ asof, closeBefore, ghost, positions, facts, markets: now },
    apart: [
      ...new Set(
        Array.from(exchanges, ([symbol, rate]) => (rate === null ? facts.underlyings.get(symbol)!.currency! : null)),
      ),
    ].filter((one) => one !== null),
    cash: paidIn + flowed.reduce((sum, { ledger, exchange }) => sum + exchange * Number(ledger.flowed), 0),
  };
}

/** Greeks of one unit, as they are written: null for what is not known. */
export function greeksOf(mark: Mark | null): Record<keyof MarkGreeks, number | null> {
  return Object.fromEntries(MOVED_GREEKS.map((name) => [name, orNull(mark?.[name] ?? NaN)])) as Record<
    keyof MarkGreeks,
    number | null
  >;
}

/** The greatest number that all of some whole numbers are multiples of. */
function commonDivisor(values: readonly number[]): number {
  return values.reduce((one, other) => {
    let [a, b] = [Math.abs(one), Math.abs(other)];
    while (b > 0) [a, b] = [b, a % b];
    return a;
  }, 0);
}

/** Of how many like units a position is made: what it holds over what one of them holds; negative where they were sold. */
export function lotsOf(legs: readonly WorthLeg[]): number {
  const held = legs.filter(({ quantity }) => quantity !== 0);
  const options = held.filter(({ contract }) => !isUnderlying(contract));
  const quantities = (options.length > 0 ? options : held).map(({ quantity }) => quantity);
  if (quantities.length === 0) return 0;
  const size = quantities.every(Number.isInteger) ? commonDivisor(quantities) : 1;
  const cost = held.reduce((sum, { ledger }) => sum + Number(ledger.cost), 0);
  return cost < 0 ? -size : size;
}
