import { calendarById, dayOf, instantOf } from '@umwelt/core';
import * as api from '$lib/api/activity/endpoints';
import { FIRST_YEAR } from '$lib/api/limits';
import { database } from '$lib/server/database';
import { latestPrint, listTape } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

const USUAL_MOST = 2000;
/** Where there are none to begin at: before all that may be held. */
const NO_PRINTS = new Date(Date.UTC(FIRST_YEAR, 0, 3));

export const GET = handleOfSymbol(api.prints, async ({ path, query }) => {
  const underlying = await knownUnderlying(path.symbol);
  const { symbol } = underlying;
  const to = query.to ? new Date(query.to) : ((await latestPrint(database(), symbol)) ?? NO_PRINTS);
  const calendar = calendarById(underlying.calendar);
  const from = query.from
    ? new Date(query.from)
    : new Date(instantOf(calendar, dayOf(calendar, to.getTime()), '00:00'));
  const { size = 0, legs = 'all', against = 'all', most = USUAL_MOST } = query;
  const tape = await listTape(database(), underlying, { from, to, size, legs, against, most });
  return { symbol, from: from.toISOString(), to: to.toISOString(), ...tape };
});
