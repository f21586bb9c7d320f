import { calendarById, dayOf, instantOf, previousSession } from '@umwelt/core';
import * as api from '$lib/api/activity/endpoints';
import { notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { findAsof, listOpenContracts } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

const USUAL_SESSIONS = 20;

export const GET = handleOfSymbol(api.openContracts, async ({ path, query }) => {
  const { asof, expiry, settlement, sessions = USUAL_SESSIONS } = query;
  const underlying = await knownUnderlying(path.symbol);
  const { symbol } = underlying;
  const last = await findAsof(database(), symbol, asof ? new Date(asof) : undefined);
  if (!last) throw notFound(`no snapshot of ${symbol}${asof ? ` at or before ${asof}` : ''} is held`);
  const calendar = calendarById(underlying.calendar);
  let first = dayOf(calendar, last.getTime());
  for (let i = 1; i < sessions; i++) first = previousSession(calendar, first);
  const from = new Date(instantOf(calendar, first, '00:00'));
  const found = await listOpenContracts(database(), underlying, { expiry, settlement: settlement ?? null }, from, last);
  if (!found) throw notFound(`${symbol} has no expiry ${expiry} in these sessions`);
  return { symbol, ...found };
});
