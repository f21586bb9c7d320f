import { calendarById, dayOf, instantOf, previousSession } from '@umwelt/core';
import { notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { findAsof, listOpenContracts } from '$lib/server/market';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

const USUAL_SESSIONS = 20;

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { asof, expiry, settlement, sessions = USUAL_SESSIONS } = readQuery(event, schemas.OpenContractsQuery);
  const underlying = await knownUnderlying(event.params.symbol);
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
