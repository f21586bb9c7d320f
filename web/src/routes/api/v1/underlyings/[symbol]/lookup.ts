import type { Endpoint } from '$lib/api';
import { notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { atOneMoment } from '$lib/server/db';
import { handleKept, type Handler } from '$lib/server/handle';
import { findUnderlying, loadLatest, loadValued, type StoredSnapshot, type Underlying } from '$lib/server/market';

/** The underlying of a request. @throws ApiError 404 */
export async function knownUnderlying(symbol: string): Promise<Underlying> {
  const underlying = await findUnderlying(database(), symbol);
  if (!underlying) throw notFound(`there is no underlying ${symbol}`);
  return underlying;
}

/**
 * Answers an endpoint whose answer depends on nothing but what is held of its underlying and of those that lend it curves: it is
 * kept until that changes.
 */
export function handleOfSymbol<E extends Endpoint & { path: `/underlyings/{symbol}${string}` }>(
  definition: E,
  work: Handler<E>,
) {
  return handleKept(definition, work, (path) => (path as { symbol: string }).symbol);
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

/** The underlying and the snapshot that a request means. */
export async function requestedSnapshot({ symbol }: { symbol: string }, { asof }: { asof?: string | undefined }) {
  const [underlying, stored] = await Promise.all([
    knownUnderlying(symbol),
    knownSnapshot(symbol, asof ? new Date(asof) : undefined),
  ]);
  return { underlying, stored };
}
