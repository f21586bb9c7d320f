import { deriveSnapshot, type ExpiryFit, type MarketTerms, type PastSession, type Exclusion } from '@umwelt/core';
import { Feed, hoursAt } from '@umwelt/demo';
import type { Database } from '../db';
import { demoSymbols } from '../demo-held';
import { SessionsBefore } from '../ingest';
import { snapshotAnswer } from '../market/answers';
import { listBorrowings, withBorrowed } from '../market/borrowings';
import { measureRow } from '../market/rows';
import { TermsStore } from '../market/terms';
import { feedSnapshot } from './snapshot';

interface Known {
  /** Session and stored moment for which it was read. */
  key: string;
  terms: MarketTerms;
  before: PastSession | null;
  /** What was said to last. */
  exclusions: readonly Exclusion[];
}

/** The market of the feed between the moments that are stored, by the same functions as these. */
export class LiveMarket {
  private readonly feed = new Feed();
  private readonly known = new Map<string, Known>();
  private symbols: { key: number; held: ReadonlySet<string> } | null = null;

  constructor(private readonly database: Database) {}

  private async heldSymbols(storedTo: number): Promise<ReadonlySet<string>> {
    if (this.symbols?.key !== storedTo) this.symbols = { key: storedTo, held: await demoSymbols(this.database) };
    return this.symbols.held;
  }

  /** Prices of all underlyings of the feed by symbol. */
  async prices(moment: number, storedTo: number): Promise<Record<string, number>> {
    const prices: Record<string, number> = {};
    for (const symbol of await this.heldSymbols(storedTo)) {
      if (this.feed.isQuoted(symbol, moment)) prices[symbol] = this.feed.moment(symbol, moment).price;
    }
    return prices;
  }

  /**
   * A snapshot of an underlying with what is derived from it, as the API answers a stored one; null where the feed does
   * not have it.
   */
  async snapshot(symbol: string, moment: number, storedTo: number) {
    const symbols = await this.heldSymbols(storedTo);
    if (!symbols.has(symbol) || !this.feed.isQuoted(symbol, moment)) return null;
    const { terms, before, exclusions } = await this.terms(symbol, moment, storedTo);
    const { snapshot } = feedSnapshot(this.feed, symbol, moment);
    const fit = deriveSnapshot(snapshot, terms, { before, exclusions });
    const key = { symbol, asof: new Date(moment) };
    const borrowings = await listBorrowings(this.database, symbol);
    const fits = await withBorrowed(fit.expiries, borrowings, (source) => this.fitsOf(source, moment, storedTo));
    return snapshotAnswer(terms, { snapshot, fits, measures: measureRow(key, fit.measures) });
  }

  /** The own fits of an underlying that lends. */
  private async fitsOf(symbol: string, moment: number, storedTo: number): Promise<ExpiryFit[]> {
    const symbols = await this.heldSymbols(storedTo);
    if (!symbols.has(symbol) || !this.feed.isQuoted(symbol, moment)) return [];
    const { terms, before, exclusions } = await this.terms(symbol, moment, storedTo);
    const { snapshot } = feedSnapshot(this.feed, symbol, moment);
    return deriveSnapshot(snapshot, terms, { before, exclusions }).expiries;
  }

  private async terms(symbol: string, moment: number, storedTo: number): Promise<Known> {
    const { day } = hoursAt(moment);
    const key = `${day} ${storedTo}`;
    const known = this.known.get(symbol);
    if (known?.key === key) return known;
    const store = new TermsStore(this.database);
    await store.load(symbol);
    const sessions = new SessionsBefore(this.database, store);
    await sessions.load(symbol, moment);
    const made = {
      key,
      terms: this.ownRates(store, symbol, moment),
      before: sessions.last(symbol),
      exclusions: store.exclusions(symbol, moment),
    };
    this.known.set(symbol, made);
    return made;
  }

  /** The rates of the feed's own session: they may not have been stored yet. */
  private ownRates(store: TermsStore, symbol: string, moment: number): MarketTerms {
    const { currency } = store.underlying(symbol);
    const rows = this.feed.rates(hoursAt(moment).day).filter((row) => row.currency === currency);
    const terms = store.terms(symbol, moment);
    return rows.length === 0
      ? terms
      : { ...terms, rates: { days: rows.map((row) => row.days), rate: rows.map((row) => row.rate) } };
  }
}
