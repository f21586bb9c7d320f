import { calendarById } from '@umwelt/core';
import { endpoint, listAnswer, notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { barsKnownAt, chainAnswer, historicalVol, listBars } from '$lib/server/market';
import { requestedSnapshot } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { expiry, basis = 'curve', format } = readQuery(event, schemas.ChainQuery);
  const { underlying, stored } = await requestedSnapshot(event);
  const bars = await listBars(database(), underlying.symbol);
  const known = barsKnownAt(bars, calendarById(underlying.calendar), stored.snapshot.asof);
  const realizedVol = historicalVol(bars.slice(0, known), 'yz', 20).at(-1) ?? NaN;
  const indexVol = (stored.measures.varianceIndex ?? NaN) / 100;
  const answer = chainAnswer(underlying, stored, { basis, realizedVol, indexVol }, expiry);
  if (expiry && answer.expiries.length === 0)
    throw notFound(`${underlying.symbol} has no expiry ${expiry} in this snapshot`);
  return format === 'csv' ? listAnswer(event, 'contracts', answer.contracts) : answer;
});
