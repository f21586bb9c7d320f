import { expiryName } from '@umwelt/core';
import * as api from '$lib/api/snapshots/endpoints';
import { ApiError } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { findUnderlying, heldExpiry, listBorrowings, setBorrowing } from '$lib/server/market';
import { knownUnderlying } from '../lookup';

export const GET = handle(api.listBorrowings, async ({ path }) => {
  const { symbol } = await knownUnderlying(path.symbol);
  return { borrowings: await listBorrowings(database(), symbol) };
});

const refused = (path: string, message: string) =>
  new ApiError(400, 'Invalid input', message, { errors: [{ path, message }] });

export const POST = handle(api.borrow, async ({ path, body }) => {
  const { symbol } = await knownUnderlying(path.symbol);
  const { borrowing, version, expiry, settlement } = body;
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
