import { expiryName } from '@umwelt/core';
import { ApiError, endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { findUnderlying, heldExpiry, listBorrowings, setBorrowing } from '$lib/server/market';
import { knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { symbol } = await knownUnderlying(event.params.symbol);
  return { borrowings: await listBorrowings(database(), symbol) };
});

const refused = (path: string, message: string) =>
  new ApiError(400, 'Invalid input', message, { errors: [{ path, message }] });

export const POST = endpoint(async (event: RequestEvent) => {
  const { symbol } = await knownUnderlying(event.params.symbol);
  const { borrowing, version, expiry, settlement } = await readBody(event, schemas.BorrowingRequest);
  const at = await heldExpiry(database(), symbol, { expiry, settlement: settlement ?? null });
  if (borrowing) {
    const { source, sourceExpiry } = borrowing;
    if (!(await findUnderlying(database(), source)))
      throw refused('borrowing.source', `there is no underlying ${source}`);
    if (source === symbol && (sourceExpiry === null || sourceExpiry === expiryName(at)))
      throw refused('borrowing.sourceExpiry', 'an expiry cannot borrow its own curve; name another one');
  }
  await setBorrowing(database(), { symbol, ...at }, version, borrowing);
  return { borrowings: await listBorrowings(database(), symbol) };
});
