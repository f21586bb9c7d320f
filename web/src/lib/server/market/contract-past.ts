import {
  calendarById,
  curveVol,
  dayOf,
  expiryInstant,
  expiryName,
  isSameExpiry,
  lastOfSessions,
  orNull,
  type Aside,
  type ExpiryId,
  type NamedExpiry,
  type Side,
} from '@umwelt/core';
import { and, asc, between, eq, inArray, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { columnsOf } from './answers';
import { heldExpiry, listAdjustments, listAsofs, listBars, listCurves, listMeasures } from './queries';
import { curveOfRow } from './rows';
import type { Underlying } from './terms';

const { fits, slices } = tables;

/** A contract by what people call it. */
export interface NamedContract extends NamedExpiry {
  side: Side;
  strike: number;
}

/** Bids and asks of one contract at some moments, by the moment. */
export async function quotesOf(
  database: Queryable,
  symbol: string,
  { expiry, settlement, strike, side }: NamedContract & ExpiryId,
  moments: readonly Date[],
): Promise<Map<number, { bid: number | null; ask: number | null }>> {
  const at = sql`array_position(${slices.strike}, ${strike}::float8)`;
  const [bids, asks] = side === 'call' ? [slices.callBid, slices.callAsk] : [slices.putBid, slices.putAsk];
  const rows = await database
    .select({ asof: slices.asof, bid: sql<number | null>`${bids}[${at}]`, ask: sql<number | null>`${asks}[${at}]` })
    .from(slices)
    .where(
      and(
        eq(slices.symbol, symbol),
        between(slices.asof, moments[0]!, moments.at(-1)!),
        inArray(slices.asof, [...moments]),
        eq(slices.expiry, expiry),
        eq(slices.settlement, settlement),
      ),
    )
    .orderBy(asc(slices.asof));
  return new Map(rows.map(({ asof, bid, ask }) => [asof.getTime(), { bid, ask }]));
}

/** What is set aside of the expiries of some contracts, by expiry and moment. */
export async function asidesOf(
  database: Queryable,
  symbol: string,
  contracts: readonly ExpiryId[],
  moments: readonly Date[],
): Promise<Map<string, readonly Aside[]>> {
  const days = [...new Set(contracts.map(({ expiry }) => expiry))];
  const rows = await database
    .select({ asof: fits.asof, expiry: fits.expiry, settlement: fits.settlement, aside: fits.aside })
    .from(fits)
    .where(
      and(
        eq(fits.symbol, symbol),
        between(fits.asof, moments[0]!, moments.at(-1)!),
        inArray(fits.asof, [...moments]),
        inArray(fits.expiry, days),
      ),
    );
  return new Map(rows.map(({ asof, aside, ...expiry }) => [placeOf(expiry, asof.getTime()), aside]));
}

export const placeOf = (expiry: ExpiryId, instant: number) => `${expiryName(expiry)} ${instant}`;

/** A moment at which contracts are told, or at which some of them settle. */
interface Told {
  instant: number;
  day: string;
  price: number | null;
  /** The name of the expiry that ends here. */
  settles: string | null;
}

/**
 * Contracts between two moments: quotes, and vols by their curves. Where an expiry ends within, and the bar of its day is held, a
 * moment more has what it settled at: the close, of a morning series the open.
 */
export async function contractPast(
  database: Queryable,
  underlying: Underlying,
  named: readonly NamedContract[],
  { from, to, step }: { from: Date; to: Date; step: 'session' | 'moment' },
) {
  const { symbol } = underlying;
  const calendar = calendarById(underlying.calendar);
  const held = await listAsofs(database, symbol, from, to);
  const moments = step === 'moment' ? held : lastOfSessions(calendar, held, (asof) => asof.getTime());
  const contracts = await Promise.all(
    named.map(async (one) => ({ ...one, ...(await heldExpiry(database, symbol, one)) })),
  );
  if (moments.length === 0)
    return answerOf(
      symbol,
      [],
      [],
      contracts.map((contract) => ({ contract, rows: [] })),
    );
  const [curves, asides, measures, bars, adjustments, quotes] = await Promise.all([
    listCurves(database, symbol, moments),
    asidesOf(database, symbol, contracts, moments),
    listMeasures(database, symbol),
    listBars(database, symbol),
    listAdjustments(database, [symbol]),
    Promise.all(contracts.map((contract) => quotesOf(database, symbol, contract, moments))),
  ]);
  const priceAt = new Map(measures.map(({ asof, price }) => [asof.getTime(), price]));
  const barOn = new Map(bars.map((bar) => [bar.date, bar]));
  const settled = new Map<string, Told>();
  for (const { expiry, settlement } of contracts) {
    const name = expiryName({ expiry, settlement });
    const instant = expiryInstant(calendar, expiry, settlement);
    const bar = barOn.get(expiry);
    if (!bar || instant <= moments[0]!.getTime() || instant > to.getTime()) continue;
    const price = settlement === 'am' ? bar.open : bar.close;
    settled.set(name, { instant, day: expiry, price, settles: name });
  }
  const told = [
    ...moments.map((asof): Told => {
      const instant = asof.getTime();
      return { instant, day: dayOf(calendar, instant), price: priceAt.get(instant) ?? null, settles: null };
    }),
    ...settled.values(),
  ].sort((a, b) => a.instant - b.instant);
  const cash = (adjustments.get(symbol) ?? []).filter(({ kind }) => kind === 'cash');
  const paid = told.map(({ day }, i) => {
    const before = told[i - 1]?.day ?? day;
    return cash.reduce((sum, { exDate, amount }) => (exDate > before && exDate <= day ? sum + amount : sum), 0);
  });
  const byContract = contracts.map((contract, i) => {
    const own = new Map(
      curves.filter((row) => isSameExpiry(row, contract)).map((row) => [row.asof.getTime(), row] as const),
    );
    const rows = told.map(({ instant, settles, price }) => {
      if (settles === expiryName(contract)) {
        return { years: 0, forward: price, rate: 0, atmVol: null, vol: null, bid: null, ask: null };
      }
      const row = own.get(instant);
      if (!row) return NOT_HELD;
      const { side, strike } = contract;
      const isAside = asides.get(placeOf(contract, instant))?.some((one) => one.side === side && one.strike === strike);
      const { bid, ask } = (!isAside && quotes[i]!.get(instant)) || { bid: null, ask: null };
      const curve = curveOfRow(row);
      const { years, rate, forward, atmVol } = row;
      const vol = curve && forward ? orNull(curveVol(curve, Math.log(strike / forward))) : null;
      return { years, forward, rate, atmVol, vol, bid, ask };
    });
    return { contract, rows };
  });
  return answerOf(symbol, told, paid, byContract);
}

const NOT_HELD = { years: null, forward: null, rate: null, atmVol: null, vol: null, bid: null, ask: null };
const COLUMNS = ['years', 'forward', 'rate', 'atmVol', 'vol', 'bid', 'ask'] as const;
type Row = Record<(typeof COLUMNS)[number], number | null>;

function answerOf(
  symbol: string,
  told: readonly Told[],
  paid: number[],
  contracts: readonly { contract: NamedContract & ExpiryId; rows: readonly Row[] }[],
) {
  return {
    symbol,
    moments: told.map(({ instant }) => new Date(instant).toISOString()),
    days: told.map(({ day }) => day),
    price: told.map(({ price }) => price),
    paid,
    contracts: contracts.map(({ contract: { side, strike, expiry, settlement }, rows }) => ({
      ...{ side, strike, expiry, settlement },
      ...columnsOf(rows, COLUMNS),
    })),
  };
}
