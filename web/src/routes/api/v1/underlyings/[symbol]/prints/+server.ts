import { calendarById, dayOf, instantOf } from '@umwelt/core';
import { listAnswer, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { latestPrint, listTape } from '$lib/server/market';
import { FIRST_YEAR } from '$lib/server/numbers';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

const USUAL_MOST = 2000;
/** Where there are none to begin at: before all that may be held. */
const NO_PRINTS = new Date(Date.UTC(FIRST_YEAR, 0, 3));

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const query = readQuery(event, schemas.TapeRequestQuery);
  const underlying = await knownUnderlying(event.params.symbol);
  const { symbol } = underlying;
  const to = query.to ? new Date(query.to) : ((await latestPrint(database(), symbol)) ?? NO_PRINTS);
  const calendar = calendarById(underlying.calendar);
  const from = query.from
    ? new Date(query.from)
    : new Date(instantOf(calendar, dayOf(calendar, to.getTime()), '00:00'));
  const { size = 0, legs = 'all', against = 'all', most = USUAL_MOST } = query;
  const { prints, ...whole } = await listTape(database(), underlying, { from, to, size, legs, against, most });
  if (query.format === 'csv') return listAnswer(event, 'prints', schemas.TapeResponse.shape.prints, prints);
  return { symbol, from: from.toISOString(), to: to.toISOString(), ...whole, prints };
});
