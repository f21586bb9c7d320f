import { calendarById, lastOfSessions } from '@umwelt/core';
import * as api from '$lib/api/snapshots/endpoints';
import { database } from '$lib/server/database';
import { curvesAnswer, listAsofs, listCurves } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

export const GET = handleOfSymbol(api.curves, async ({ path, query }) => {
  const { from, to, step, strikes, own } = query;
  const { symbol, calendar } = await knownUnderlying(path.symbol);
  const held = await listAsofs(database(), symbol, new Date(from), new Date(to));
  const moments = step === 'moment' ? held : lastOfSessions(calendarById(calendar), held, (asof) => asof.getTime());
  return curvesAnswer(symbol, await listCurves(database(), symbol, moments, { strikes, isOwn: own === 'true' }));
});
