import {
  exercisedEarly,
  instantOf,
  interestOn,
  isUnderlying,
  riskTree,
  type ContractId,
  type Numeraire,
  type RiskLevel,
  type RiskNode,
  type RiskSums,
} from '@umwelt/core';
import { asc, eq } from 'drizzle-orm';
import type { z } from 'zod';
import type { schemas } from '../../api';
import { tables, type Queryable } from '../db';
import { contractOf, type StoredBook } from './facts';
import { greeksOf, lotsOf, type BookWorth, type WorthLeg, type WorthPosition } from './worth';

type WorthAnswer = z.input<typeof schemas.WorthResponse>;
type PositionRow = WorthAnswer['positions'][number];
type LegRow = WorthAnswer['legs'][number];
type PositionAnswer = z.input<typeof schemas.PositionResponse>;

const iso = (instant: number) => new Date(instant).toISOString();

/** The parts of a contract's name; null for what the underlying has not. */
export function contractFields(contract: ContractId) {
  if (isUnderlying(contract))
    return { symbol: contract.symbol, expiry: null, settlement: null, strike: null, side: null };
  const { symbol, expiry, settlement, strike, side } = contract;
  return { symbol, expiry, settlement, strike, side };
}

function legRow(leg: WorthLeg, worth: BookWorth, beta: number | null = null): LegRow {
  const { contract, mark, ledger, quantity, multiplier, exchange, price, value, isByCurve, missing } = leg;
  const held = quantity * multiplier;
  const underlying = worth.facts.underlyings.get(contract.symbol);
  return {
    position: leg.position,
    ...contractFields(contract),
    ...{ kind: underlying?.kind ?? null, exercise: underlying?.exercise ?? null },
    ...{ family: leg.family, ratio: underlying?.familyRatio ?? null, beta, quantity, multiplier, exchange, price },
    entry: quantity === 0 ? null : Number(ledger.cost) / held,
    ...{ bid: mark?.bid ?? null, ask: mark?.ask ?? null, mid: mark?.mid ?? null, theory: mark?.theory ?? null },
    ...{ vol: mark?.vol ?? null, days: mark?.days ?? null },
    ...greeksOf(mark),
    value,
    ...{ sinceEntry: leg.sinceEntry, sinceClose: leg.sinceClose, sinceGhost: leg.sinceGhost },
    ...{ byCurve: isByCurve, missing },
  };
}

function positionRow(
  { id, name, symbol, tags, note, version }: StoredBook['positions'][number],
  worth: WorthPosition,
): PositionRow {
  const { legs, state, value } = worth;
  const lots = lotsOf(legs);
  const held = legs.filter(({ quantity }) => quantity !== 0);
  // In units of the first contract's multiplier, in the currency of the underlying.
  const size = Math.abs(lots) * (held[0]?.multiplier ?? 1);
  const perLot = (amount: number) => (lots === 0 ? null : amount / size);
  const cost = held.reduce((sum, { ledger }) => sum + Number(ledger.cost), 0);
  const now = held.reduce((sum, leg) => sum + leg.value / leg.exchange, 0);
  const sign = cost < 0 ? -1 : 1;
  return {
    ...{ id, name, symbol, tags, note, version },
    opened: state.opened === null ? null : iso(state.opened),
    closed: state.closed === null ? null : iso(state.closed),
    ...{ lots, entry: perLot(sign * cost), now: perLot(sign * now), value },
    profit: {
      ...{ open: worth.open, realized: worth.realized, fees: worth.fees, income: worth.income },
      ...{ sinceEntry: worth.sinceEntry, sinceClose: worth.sinceClose, sinceGhost: worth.sinceGhost },
    },
  };
}

/** What a book's cash has earned by the shortest rates of its currency. */
async function interestOf(session: Queryable, { book, cash }: StoredBook, worth: BookWorth): Promise<number> {
  const { rates } = tables;
  const rows = await session
    .selectDistinctOn([rates.date], { date: rates.date, rate: rates.rate })
    .from(rates)
    .where(eq(rates.currency, book.currency))
    .orderBy(asc(rates.date), asc(rates.days));
  const calendar = worth.facts.calendarOf('');
  const flows = worth.positions.flatMap(({ state, legs }) => {
    const exchange = legs[0]?.exchange ?? 1;
    return Number.isFinite(exchange)
      ? state.flows.map(({ time, amount }) => ({ time, amount: exchange * Number(amount) }))
      : [];
  });
  return interestOn(
    [...cash.map(({ time, amount }) => ({ time: time.getTime(), amount: Number(amount) })), ...flows],
    rows.map(({ date, rate }) => ({ time: instantOf(calendar, date, calendar.open), rate })),
    worth.asof,
  );
}

/** Sold legs that their buyers would do well to exercise early. */
function warningsOf(worth: BookWorth): WorthAnswer['warnings'] {
  return worth.positions.flatMap(({ id, legs }) =>
    legs.flatMap(({ contract, quantity, mark, market }) => {
      if (!market || !mark || quantity >= 0 || isUnderlying(contract)) return [];
      const { strike, side, expiry, symbol } = contract;
      const fit = market.at.expiry(contract)?.fit;
      const price = Number.isFinite(mark.mid) ? mark.mid : mark.theory;
      const early = fit && exercisedEarly(contract, fit, market.at.market.around, price);
      if (!early) return [];
      const words = `the sold ${strike} ${side} of ${expiry} on ${symbol} may be assigned early: its time value of ${early.timeValue.toFixed(2)} is less than the ${early.earns} of ${early.amount.toFixed(2)} that exercising earns`;
      return [{ position: id, words }];
    }),
  );
}

/** What a book is worth, as the API writes it. */
export async function worthAnswer(
  session: Queryable,
  stored: StoredBook,
  worth: BookWorth,
  betaOf: (symbol: string) => number | null,
): Promise<WorthAnswer> {
  const byId = new Map(stored.positions.map((one) => [one.id, one]));
  return {
    asof: iso(worth.asof),
    closeBefore: iso(worth.closeBefore),
    ghost: worth.ghost === null ? null : iso(worth.ghost),
    currency: stored.book.currency,
    cash: worth.cash,
    interest: await interestOf(session, stored, worth),
    apart: [...worth.apart],
    positions: worth.positions.map((one) => positionRow(byId.get(one.id)!, one)),
    legs: worth.positions.flatMap(({ legs }) => legs.map((leg) => legRow(leg, worth, betaOf(leg.contract.symbol)))),
    warnings: warningsOf(worth),
  };
}

/** Positions alone. */
export function positionsAnswer(stored: StoredBook, worth: BookWorth): { positions: PositionRow[] } {
  const byId = new Map(stored.positions.map((one) => [one.id, one]));
  return { positions: worth.positions.map((one) => positionRow(byId.get(one.id)!, one)) };
}

/** One position with its legs and its fills. */
export function positionAnswer(stored: StoredBook, worth: BookWorth, id: number): PositionAnswer {
  const one = worth.positions.find((position) => position.id === id)!;
  return {
    ...positionRow(
      stored.positions.find((position) => position.id === id)!,
      one,
    ),
    legs: one.legs.map((leg) => legRow(leg, worth)),
    fills: (stored.fills.get(id) ?? []).map((fill) => ({
      id: fill.id,
      time: fill.time.toISOString(),
      ...contractFields(contractOf(fill)),
      ...{ quantity: Number(fill.quantity), price: Number(fill.price), fee: Number(fill.fee) },
      ...{ tag: fill.tag, assigned: fill.isAssigned, version: fill.version },
    })),
  };
}

/** In whose price moves are told: those of its family by their ratios, all others in their own. */
export function numeraireIn(worth: BookWorth, symbol: string): Numeraire | null {
  const known = worth.facts.underlyings.get(symbol);
  const price = worth.markets.get(symbol)?.at.market.around.spot;
  if (!known || price === undefined) return null;
  const own = known.familyRatio ?? 1;
  return {
    price,
    ratioOf: (leg) =>
      leg.family === (known.family ?? symbol)
        ? (worth.facts.underlyings.get(leg.contract.symbol)?.familyRatio ?? own) / own
        : leg.price / price,
  };
}

const LEVELS = ['family', 'underlying', 'expiry', 'strike'] as const satisfies readonly RiskLevel[];

function sumsRow(
  { value, delta, gamma, vega, vegaRoot, theta, rho, vanna, charm, volga, veta, ...profit }: RiskSums,
  missing: number,
) {
  const { sinceEntry, sinceClose, sinceGhost } = profit;
  return {
    ...{ value, delta, gamma, vega, vegaRoot, theta, rho, vanna, charm, volga, veta },
    profit: { entry: sinceEntry, day: sinceClose, ghost: sinceGhost },
    missing,
  };
}

/** Greeks in money by a level; rows sum to the total. */
export function riskAnswer(
  worth: BookWorth,
  by: (typeof LEVELS)[number],
  numeraire: Numeraire | null,
): z.input<typeof schemas.BookRiskResponse> {
  const levels = LEVELS.slice(0, LEVELS.indexOf(by) + 1);
  const tree = riskTree(
    worth.positions.flatMap(({ legs }) => legs),
    levels,
    numeraire,
  );
  const rows: z.input<typeof schemas.BookRiskResponse>['rows'] = [];
  const visit = (node: RiskNode, names: readonly string[]) => {
    if (node.parts.length > 0) {
      for (const part of node.parts) visit(part, [...names, part.name]);
      return;
    }
    const [family = '', symbol, expiry, strike] = names;
    rows.push({
      family,
      ...(symbol !== undefined && { symbol }),
      ...(expiry !== undefined && { expiry }),
      ...(strike !== undefined && { strike }),
      ...sumsRow(node.sums, node.missing),
    });
  };
  if (tree.parts.length > 0) visit(tree, []);
  return { asof: iso(worth.asof), rows, total: sumsRow(tree.sums, tree.missing) };
}
