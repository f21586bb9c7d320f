import { emptySide, type SideQuotes, type SliceQuotes } from '@umwelt/core';
import type { Feed, Quote } from '@umwelt/demo';
import { finishSnapshot, type FinishedSnapshot } from '../ingest';

/** The chain of the feed at a moment, as a snapshot. */
export function feedSnapshot(feed: Feed, symbol: string, asof: number): FinishedSnapshot {
  const { price, quotes } = feed.chain(symbol, asof);
  const byExpiry = new Map<string, Quote[]>();
  for (const quote of quotes) {
    const own = byExpiry.get(quote.expiry);
    if (own) own.push(quote);
    else byExpiry.set(quote.expiry, [quote]);
  }
  const slices = Array.from(byExpiry, ([expiry, own]) => sliceOf(expiry, own));
  return finishSnapshot({ symbol, asof, price, slices }, quotes.length);
}

function sliceOf(expiry: string, quotes: readonly Quote[]): SliceQuotes {
  const strike = Float64Array.from(new Set(quotes.map((quote) => quote.strike))).sort();
  const at = new Map(Array.from(strike, (value, i) => [value, i]));
  const call = emptySide(strike.length);
  const put = emptySide(strike.length);
  for (const quote of quotes) setQuote(quote.side === 'C' ? call : put, at.get(quote.strike)!, quote);
  return { expiry, settlement: 'pm', strike, call, put };
}

function setQuote(side: SideQuotes, at: number, quote: Quote): void {
  side.bid[at] = quote.bid;
  side.ask[at] = quote.ask;
  side.bidSize[at] = quote.bidSize;
  side.askSize[at] = quote.askSize;
  side.last[at] = quote.last ?? NaN;
  side.volume[at] = quote.volume;
  side.openInterest[at] = quote.openInterest;
}
