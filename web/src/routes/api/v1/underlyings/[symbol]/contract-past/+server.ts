import { parseExpiryName } from '@umwelt/core';
import * as api from '$lib/api/snapshots/endpoints';
import { database } from '$lib/server/database';
import { contractPast, type NamedContract } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

/** A contract as the query has checked it. */
function contractOf(text: string): NamedContract {
  const [head = '', name = ''] = text.split('@');
  return { ...parseExpiryName(name)!, side: head.startsWith('c') ? 'call' : 'put', strike: Number(head.slice(1)) };
}

export const GET = handleOfSymbol(api.contractPast, async ({ path, query }) => {
  const { contracts, from, to, step = 'session' } = query;
  const underlying = await knownUnderlying(path.symbol);
  const span = { from: new Date(from), to: new Date(to), step };
  return contractPast(database(), underlying, contracts.split(',').map(contractOf), span);
});
