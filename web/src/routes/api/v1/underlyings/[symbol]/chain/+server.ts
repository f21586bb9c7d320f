import { calendarById } from '@umwelt/core';
import { endpoint, listAnswer, notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { adjusted, barsKnownAt, chainAnswer, listAdjustments, listBars, USUAL_VOL, volByBar } from '$lib/server/market';
import { requestedSnapshot } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { expiry, basis = 'curve', format } = readQuery(event, schemas.ChainQuery);
  const { underlying, stored } = await requestedSnapshot(event);
  const { symbol } = underlying;
  const [bars, steps] = await Promise.all([listBars(database(), symbol), listAdjustments(database(), [symbol])]);
  const known = barsKnownAt(bars, calendarById(underlying.calendar), stored.snapshot.asof);
  const realizedVol = volByBar(adjusted(bars.slice(0, known), steps.get(symbol) ?? []), USUAL_VOL).at(-1) ?? NaN;
  const indexVol = (stored.measures.varianceIndex ?? NaN) / 100;
  const answer = chainAnswer(underlying, stored, { basis, realizedVol, indexVol }, expiry);
  if (expiry && answer.expiries.length === 0)
    throw notFound(`${underlying.symbol} has no expiry ${expiry} in this snapshot`);
  return format === 'csv' ? listAnswer(event, 'contracts', answer.contracts) : answer;
});
