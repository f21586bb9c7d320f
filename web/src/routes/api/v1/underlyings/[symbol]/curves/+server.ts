import { calendarById, lastOfSessions } from '@umwelt/core';
import { readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { curvesAnswer, listAsofs, listCurves } from '$lib/server/market';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { from, to, step, strikes, own } = readQuery(event, schemas.CurvesQuery);
  const { symbol, calendar } = await knownUnderlying(event.params.symbol);
  const held = await listAsofs(database(), symbol, new Date(from), new Date(to));
  const moments = step === 'moment' ? held : lastOfSessions(calendarById(calendar), held, (asof) => asof.getTime());
  return curvesAnswer(symbol, await listCurves(database(), symbol, moments, { strikes, isOwn: own === 'true' }));
});
