import { endpoint, notFound, readQuery, schemas } from '$lib/server/api';
import { database, keptAnswers } from '$lib/server/database';
import { atOneMoment } from '$lib/server/db';
import { findUnderlying, loadLatest, loadValued, type StoredSnapshot, type Underlying } from '$lib/server/market';
import type { RequestEvent } from '@sveltejs/kit';

/** The underlying of a request. @throws ApiError 404 */
export async function knownUnderlying(symbol: string): Promise<Underlying> {
  const underlying = await findUnderlying(database(), symbol);
  if (!underlying) throw notFound(`there is no underlying ${symbol}`);
  return underlying;
}

type OfSymbol = RequestEvent & { params: { symbol: string } };

/**
 * An endpoint whose answer depends on nothing but what is held of its underlying and of those that lend it curves: it is kept
 * until that changes.
 */
export function keptEndpoint<Event extends OfSymbol>(work: (event: Event) => Promise<unknown>) {
  const plain = endpoint(work);
  return endpoint((event: Event) => keptAnswers().answer(event, event.params.symbol, () => plain(event)));
}

/** The latest snapshot at or before a moment, as it is at one moment of the database. @throws ApiError 404 */
export async function knownSnapshot(symbol: string, moment?: Date): Promise<StoredSnapshot> {
  const stored = await atOneMoment(database(), async (session) => {
    // Most who ask know a moment that is held: it is had at once.
    const exact = moment && (await loadValued(session, symbol, moment));
    return exact || loadLatest(session, symbol, moment);
  });
  if (!stored) {
    await knownUnderlying(symbol);
    throw notFound(
      moment
        ? `no snapshot of ${symbol} at or before ${moment.toISOString()} is held`
        : `no snapshot of ${symbol} is held`,
    );
  }
  return stored;
}

/** The underlying and the snapshot that the path and the query of a request mean. */
export async function requestedSnapshot(event: OfSymbol) {
  const { asof } = readQuery(event, schemas.AsofQuery);
  const [underlying, stored] = await Promise.all([
    knownUnderlying(event.params.symbol),
    knownSnapshot(event.params.symbol, asof ? new Date(asof) : undefined),
  ]);
  return { underlying, stored };
}
