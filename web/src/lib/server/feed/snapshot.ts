import { snapshotOf, type Feed } from '@umwelt/demo';
import { finishSnapshot, type FinishedSnapshot } from '../ingest';

/** The chain of the feed at a moment, as a snapshot. */
export function feedSnapshot(feed: Feed, symbol: string, asof: number): FinishedSnapshot {
  const { price, quotes } = feed.chain(symbol, asof);
  return finishSnapshot(snapshotOf(symbol, { asof, price }, quotes), quotes.length);
}
