import {
  ADJUSTED_KINDS,
  calendarById,
  dayOf,
  type Calendar,
  type DividendPayment,
  type MarketTerms,
  type RateCurve,
  type Exclusion,
} from '@umwelt/core';
import { and, asc, eq, notInArray } from 'drizzle-orm';
import { tables, type Queryable } from '../db';

export type Underlying = typeof tables.underlyings.$inferSelect;

interface DatedCurve extends RateCurve {
  date: string;
}

interface Known {
  underlying: Underlying;
  calendar: Calendar;
  curves: readonly DatedCurve[];
  dividends: readonly DividendPayment[];
  /** By the moment of their snapshot. */
  exclusions: readonly DatedExclusion[];
}

/** What was decided, and when. */
export interface DatedExclusion extends Exclusion {
  asof: number;
  isLasting: boolean;
}

/**
 * What holds at a moment: what was said of it, and what was said before to last. Of one contract the latest counts.
 *
 * @param said in order of time
 */
export function exclusionsAt(said: readonly DatedExclusion[], asof: number): Exclusion[] {
  const latest = new Map<string, Exclusion>();
  for (const { asof: at, isLasting, ...decision } of said) {
    if (at !== asof && !(isLasting && at < asof)) continue;
    const { expiry, settlement, strike, side } = decision;
    latest.set([expiry, settlement, strike, side].join(), decision);
  }
  return [...latest.values()];
}

/**
 * What is known beside the quotes: kinds, calendars, rate curves and dividends, read once per symbol and kept
 * for as long as the store lives (one import, one request).
 */
export class TermsStore {
  private readonly known = new Map<string, Known | null>();
  private readonly curves = new Map<string, DatedCurve[]>();

  constructor(private readonly database: Queryable) {}

  /** Whether a symbol has been loaded and exists. */
  isKnown(symbol: string): boolean {
    return Boolean(this.known.get(symbol));
  }

  /** Reads what belongs to a symbol; false when it is not known. */
  async load(symbol: string): Promise<boolean> {
    if (!this.known.has(symbol)) this.known.set(symbol, await this.read(symbol));
    return this.known.get(symbol) !== null;
  }

  private async read(symbol: string): Promise<Known | null> {
    const [underlying] = await this.database
      .select()
      .from(tables.underlyings)
      .where(eq(tables.underlyings.symbol, symbol));
    if (!underlying) return null;
    return {
      underlying,
      calendar: calendarById(underlying.calendar),
      curves: underlying.currency === null ? [] : await this.readCurves(underlying.currency),
      dividends: await this.readDividends(symbol),
      exclusions: await this.readExclusions(symbol),
    };
  }

  private loaded(symbol: string): Known {
    const known = this.known.get(symbol);
    if (!known) throw new RangeError(`the terms of ${symbol} have not been loaded`);
    return known;
  }

  /** What is known of a loaded symbol. */
  underlying(symbol: string): Underlying {
    return this.loaded(symbol).underlying;
  }

  /** The calendar of a loaded symbol. */
  calendar(symbol: string): Calendar {
    return this.loaded(symbol).calendar;
  }

  /**
   * Terms for a snapshot of a loaded symbol. The rate curve is the latest of its day or earlier, else the
   * earliest there is.
   */
  terms(symbol: string, asof: number): MarketTerms {
    const { underlying, calendar, curves, dividends } = this.loaded(symbol);
    const day = dayOf(calendar, asof);
    const rates = curves.findLast((curve) => curve.date <= day) ?? curves[0] ?? { days: [], rate: [] };
    return { kind: underlying.kind, exercise: underlying.exercise, calendar, rates, dividends };
  }

  /** What has been decided about a snapshot of a loaded symbol. */
  exclusions(symbol: string, asof: number): readonly Exclusion[] {
    return exclusionsAt(this.loaded(symbol).exclusions, asof);
  }

  private async readExclusions(symbol: string): Promise<DatedExclusion[]> {
    const { exclusions } = tables;
    const rows = await this.database
      .select()
      .from(exclusions)
      .where(eq(exclusions.symbol, symbol))
      .orderBy(asc(exclusions.asof));
    return rows.map(({ asof, expiry, settlement, strike, side, decision, isLasting }) => {
      const isWhole = side === '';
      const said = { expiry, settlement, decision, strike: isWhole ? null : strike, side: isWhole ? null : side };
      return { ...said, asof: asof.getTime(), isLasting };
    });
  }

  private async readCurves(currency: string): Promise<DatedCurve[]> {
    const known = this.curves.get(currency);
    if (known) return known;
    const { rates } = tables;
    const rows = await this.database
      .select()
      .from(rates)
      .where(eq(rates.currency, currency))
      .orderBy(asc(rates.date), asc(rates.days));
    const curves: { date: string; days: number[]; rate: number[] }[] = [];
    for (const row of rows) {
      let last = curves.at(-1);
      if (last?.date !== row.date) curves.push((last = { date: row.date, days: [], rate: [] }));
      last.days.push(row.days);
      last.rate.push(row.rate);
    }
    this.curves.set(currency, curves);
    return curves;
  }

  private readDividends(symbol: string): Promise<DividendPayment[]> {
    const { dividends } = tables;
    return this.database
      .select({ exDate: dividends.exDate, amount: dividends.amount })
      .from(dividends)
      .where(and(eq(dividends.symbol, symbol), notInArray(dividends.kind, ADJUSTED_KINDS)))
      .orderBy(asc(dividends.exDate));
  }
}
