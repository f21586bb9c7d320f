import { notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { findAsof, findUnderlying, loadValued, type StoredSnapshot, type Underlying } from '$lib/server/market';
import type { RequestEvent } from '@sveltejs/kit';

/** The underlying of a request. @throws ApiError 404 */
export async function knownUnderlying(symbol: string): Promise<Underlying> {
  const underlying = await findUnderlying(database(), symbol);
  if (!underlying) throw notFound(`there is no underlying ${symbol}`);
  return underlying;
}

/** The latest snapshot at or before a moment. @throws ApiError 404 */
export async function knownSnapshot(symbol: string, moment?: Date): Promise<StoredSnapshot> {
  // Most who ask know a moment that is held: it is had at once.
  const exact = moment && (await loadValued(database(), symbol, moment));
  if (exact) return exact;
  const asof = await findAsof(database(), symbol, moment);
  const stored = asof && (await loadValued(database(), symbol, asof));
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
export async function requestedSnapshot(event: RequestEvent & { params: { symbol: string } }) {
  const { asof } = readQuery(event, schemas.AsofQuery);
  const [underlying, stored] = await Promise.all([
    knownUnderlying(event.params.symbol),
    knownSnapshot(event.params.symbol, asof ? new Date(asof) : undefined),
  ]);
  return { underlying, stored };
}
