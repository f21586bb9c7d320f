import { calendarById, dayOf, doubtfulMeasures } from '@umwelt/core';
import * as api from '$lib/api/snapshots/endpoints';
import { database } from '$lib/server/database';
import { bySession, listMeasures } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

export const GET = handleOfSymbol(api.doubtful, async ({ path }) => {
  const underlying = await knownUnderlying(path.symbol);
  const calendar = calendarById(underlying.calendar);
  const ends = bySession(calendar, await listMeasures(database(), underlying.symbol));
  const doubtful = doubtfulMeasures(ends).map(({ at, ...one }) => {
    const { asof } = ends[at]!;
    return { asof: asof.toISOString(), day: dayOf(calendar, asof.getTime()), ...one };
  });
  return { symbol: underlying.symbol, doubtful };
});
