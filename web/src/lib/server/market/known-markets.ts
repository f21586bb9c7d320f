import {
  ADJUSTED_KINDS,
  calendarById,
  cashDividends,
  emptySide,
  eventVariances,
  expiryTerms,
  isSameExpiry,
  MarketAt,
  orNaN,
  volPerMove,
  writtenOn,
  yearsBetween,
  type Aside,
  type ExpiryFit,
  type ListedSlice,
  type MarketAround,
  type OptionId,
  type Side,
} from '@umwelt/core';
import { and, between, eq, inArray, lte, max, sql } from 'drizzle-orm';
import { ChangeLog, tables, type Database, type Queryable } from '../db';
// Threads are bundled of single files: the whole of the market takes parts of the page along.
import { asidesOf, placeOf, quotesOf } from './contract-past';
import { listCurves, listEvents, listMeasures, listUnderlyings, loadValued, type StoredSnapshot } from './queries';
import { curveOfRow, fittedSlices } from './rows';
import type { Underlying } from './terms';

/** An underlying at a moment, with when that was. */
export interface KnownMarket {
  readonly asof: number;
  readonly at: MarketAt;
  readonly underlying: Underlying;
}

const DAY_MS = 86_400_000;
/** Chains that are kept: a year of one position by session, or three moments of a large book. */
const MOST_KEPT = 400;

/** Markets as books and the Finder ask for them, kept as long as what is held of them stays the same. */
export class Markets {
  /** Counted up whenever something that is held has changed. */
  age = 0;
  private readonly log = new ChangeLog();
  private readonly kept = new Map<string, Promise<KnownMarket | null>>();
  private readonly events = new Map<string, ReturnType<typeof listEvents>>();
  private readonly slopes = new Map<string, Promise<number>>();
  private all: Promise<ReadonlyMap<string, Underlying>> | null = null;

  constructor(private readonly database: Database) {}

  /** Forgets what has changed in the database since the last look. Called before each answer. */
  async look(): Promise<void> {
    const changes = await this.log.look(this.database);
    if (changes?.length === 0) return;
    this.age++;
    const symbols = new Set(changes?.map(({ symbol }) => symbol));
    const isAll = !changes || symbols.has('') || changes.some(({ what }) => what === 'borrowings');
    for (const kept of [this.kept, this.events, this.slopes])
      for (const key of kept.keys()) if (isAll || symbols.has(key.split(' ')[0]!)) kept.delete(key);
    this.all = null;
  }

  /** All underlyings, by symbol. */
  underlyings(): Promise<ReadonlyMap<string, Underlying>> {
    this.all ??= listUnderlyings(this.database).then((rows) => new Map(rows.map((row) => [row.symbol, row])));
    return this.all;
  }

  /** The last moment at or before another one that is held of any of some underlyings; null where none is. */
  async latest(symbols: readonly string[], moment: Date | null): Promise<number | null> {
    const { snapshots } = tables;
    const [row] = await this.database
      .select({ asof: max(snapshots.asof) })
      .from(snapshots)
      .where(
        and(
          symbols.length > 0 ? inArray(snapshots.symbol, [...symbols]) : undefined,
          moment ? lte(snapshots.asof, moment) : undefined,
        ),
      );
    return row?.asof?.getTime() ?? null;
  }

  /** When each of some underlyings was last held at or before a moment. */
  async asofs(symbols: readonly string[], moment: number): Promise<Map<string, number>> {
    if (symbols.length === 0) return new Map();
    const list = sql.join(
      symbols.map((symbol) => sql`(${symbol})`),
      sql`, `,
    );
    const { rows } = await this.database.execute<{ symbol: string; asof: string | null }>(sql`
      SELECT asked.symbol, (SELECT extract(epoch FROM max(s.asof)) * 1000 FROM snapshots s
        WHERE s.symbol = asked.symbol AND s.asof <= ${new Date(moment)}) AS asof
      FROM (VALUES ${list}) AS asked (symbol)`);
    return new Map(rows.flatMap(({ symbol, asof }) => (asof === null ? [] : [[symbol, Math.round(Number(asof))]])));
  }

  /** Markets of some underlyings at their last moments at or before another one; those that are not held are not among them. */
  async at(symbols: readonly string[], moment: number): Promise<Map<string, KnownMarket>> {
    const asofs = await this.asofs(symbols, moment);
    const found = await Promise.all(
      Array.from(asofs, async ([symbol, asof]) => [symbol, await this.market(symbol, asof)] as const),
    );
    return new Map(found.flatMap(([symbol, market]) => (market ? [[symbol, market]] : [])));
  }

  /** The market of an underlying at a moment that is held. */
  market(symbol: string, asof: number): Promise<KnownMarket | null> {
    const key = `${symbol} ${asof}`;
    const found = this.kept.get(key) ?? this.read(symbol, asof);
    this.kept.delete(key);
    this.kept.set(key, found);
    found.catch(() => this.kept.delete(key));
    if (this.kept.size > MOST_KEPT) this.kept.delete(this.kept.keys().next().value!);
    return found;
  }

  private async read(symbol: string, asof: number): Promise<KnownMarket | null> {
    const underlying = (await this.underlyings()).get(symbol);
    const stored = underlying && (await loadValued(this.database, symbol, new Date(asof)));
    if (!stored) return null;
    return { asof, underlying, at: marketOf(underlying, stored, await this.eventsOf(symbol)) };
  }

  /** Announcements and dividends of an underlying. */
  eventsOf(symbol: string): ReturnType<typeof listEvents> {
    const found = this.events.get(symbol) ?? listEvents(this.database, symbol);
    this.events.set(symbol, found);
    found.catch(() => this.events.delete(symbol));
    return found;
  }

  /** What the vol at 30 days of an underlying has changed by for one of ln S, over all sessions that are held. */
  volPerMove(symbol: string): Promise<number> {
    const found =
      this.slopes.get(symbol) ??
      listMeasures(this.database, symbol).then((rows) => {
        const column = (field: 'price' | 'iv30') => Float64Array.from(rows, (row) => row[field] ?? NaN);
        return volPerMove(column('price'), column('iv30'));
      });
    this.slopes.set(symbol, found);
    found.catch(() => this.slopes.delete(symbol));
    return found;
  }
}

/** What is known around an underlying at a moment. */
function aroundOf(
  underlying: Underlying,
  asof: number,
  price: number,
  fits: readonly ExpiryFit[],
  listed: Awaited<ReturnType<typeof listEvents>>,
): MarketAround {
  const on = { ...writtenOn({ price }, underlying) };
  const spot = price > 0 ? price : fits[0] ? expiryTerms(on, fits[0]).spot : NaN;
  const last = Math.max(asof, ...fits.map(({ days }) => asof + days * DAY_MS));
  const dividends = listed.dividends.filter(({ kind }) => !ADJUSTED_KINDS.includes(kind));
  return {
    ...{ on, spot },
    dividends: cashDividends(dividends, calendarById(underlying.calendar), asof, last),
    events: eventVariances(
      fits,
      listed.events.map(({ start }) => yearsBetween(asof, start.getTime())),
    ),
  };
}

/** A snapshot as a book values it. */
export function marketOf(
  underlying: Underlying,
  stored: StoredSnapshot,
  listed: Awaited<ReturnType<typeof listEvents>>,
): MarketAt {
  const { asof, price } = stored.snapshot;
  const slices = fittedSlices(stored);
  const fits = slices.map(({ fit }) => fit);
  return new MarketAt({ symbol: underlying.symbol, slices, around: aroundOf(underlying, asof, price, fits, listed) });
}

/**
 * An underlying at some moments as far as some of its contracts go: with the quotes of these alone, and all its curves.
 *
 * @param moments that are held, in order of time
 * @returns by the moment
 */
export async function pastMarkets(
  database: Queryable,
  underlying: Underlying,
  contracts: readonly OptionId[],
  moments: readonly Date[],
  listed: Awaited<ReturnType<typeof listEvents>>,
): Promise<Map<number, MarketAt>> {
  const { symbol } = underlying;
  if (moments.length === 0) return new Map();
  const [curves, asides, prices, quotes] = await Promise.all([
    listCurves(database, symbol, moments),
    contracts.length > 0 ? asidesOf(database, symbol, contracts, moments) : new Map<string, readonly Aside[]>(),
    pricesOf(database, symbol, moments),
    Promise.all(contracts.map((contract) => quotesOf(database, symbol, contract, moments))),
  ]);
  const byMoment = new Map<number, ExpiryFit[]>(moments.map((moment) => [moment.getTime(), []]));
  for (const row of curves) {
    const instant = row.asof.getTime();
    const { expiry, settlement, years, days, sessions, rate, expiryAside } = row;
    // What valuing asks of a fit; the rest of it is of no use here.
    byMoment.get(instant)!.push({
      ...{ expiry, settlement, years, days, sessions, rate, expiryAside, discount: Math.exp(-rate * years) },
      ...{ forward: orNaN(row.forward), atmVol: orNaN(row.atmVol), curve: curveOfRow(row) },
      aside: asides.get(placeOf(row, instant)) ?? [],
    } as ExpiryFit);
  }
  return new Map(
    Array.from(byMoment, ([instant, fits]) => {
      const slices = fits.flatMap((fit): ListedSlice[] => {
        const own = contracts.flatMap((one, i) =>
          isSameExpiry(one, fit) ? [{ one, at: quotes[i]!.get(instant) }] : [],
        );
        if (own.length === 0) return [];
        const strikes = [...new Set(own.map(({ one }) => one.strike))].sort((a, b) => a - b);
        const quoteAt = (side: Side, field: 'bid' | 'ask') =>
          Float64Array.from(strikes, (strike) =>
            orNaN(own.find(({ one }) => one.side === side && one.strike === strike)?.at?.[field]),
          );
        const sideAt = (side: Side) => ({
          ...emptySide(strikes.length),
          bid: quoteAt(side, 'bid'),
          ask: quoteAt(side, 'ask'),
        });
        const { expiry, settlement } = fit;
        return [
          { expiry, settlement, strike: Float64Array.from(strikes), call: sideAt('call'), put: sideAt('put'), fit },
        ];
      });
      const around = aroundOf(underlying, instant, prices.get(instant) ?? NaN, fits, listed);
      return [instant, new MarketAt({ symbol, slices, around })] as const;
    }),
  );
}

/** Prices of an underlying at some moments. */
async function pricesOf(database: Queryable, symbol: string, moments: readonly Date[]): Promise<Map<number, number>> {
  const { measures } = tables;
  const rows = await database
    .select({ asof: measures.asof, price: measures.price })
    .from(measures)
    .where(
      and(
        eq(measures.symbol, symbol),
        between(measures.asof, moments[0]!, moments.at(-1)!),
        inArray(measures.asof, [...moments]),
      ),
    );
  return new Map(rows.map(({ asof, price }) => [asof.getTime(), orNaN(price)]));
}
