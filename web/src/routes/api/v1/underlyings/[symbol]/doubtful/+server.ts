import { calendarById, dayOf, doubtfulMeasures } from '@umwelt/core';
import { listAnswer, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { bySession, listMeasures } from '$lib/server/market';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { format } = readQuery(event, schemas.DoubtfulQuery);
  const underlying = await knownUnderlying(event.params.symbol);
  const calendar = calendarById(underlying.calendar);
  const ends = bySession(calendar, await listMeasures(database(), underlying.symbol));
  const doubtful = doubtfulMeasures(ends).map(({ at, ...one }) => {
    const { asof } = ends[at]!;
    return { asof: asof.toISOString(), day: dayOf(calendar, asof.getTime()), ...one };
  });
  return format === 'csv'
    ? listAnswer(event, 'doubtful', schemas.DoubtfulResponse.shape.doubtful, doubtful)
    : { symbol: underlying.symbol, doubtful };
});
