import { calendarById, dayOf } from '@umwelt/core';
import { listAnswer, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listEvents } from '$lib/server/market';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { symbol, calendar } = await knownUnderlying(event.params.symbol);
  const { dividends, events } = await listEvents(database(), symbol);
  const rows = [
    ...dividends.map(({ exDate, amount, kind }) => ({
      date: exDate,
      start: null,
      title: kind === 'split' ? 'Split' : 'Dividend',
      kind: `dividend ${kind}`,
      amount,
    })),
    ...events.map(({ start, title, kind }) => ({
      date: dayOf(calendarById(calendar), start.getTime()),
      start: start.toISOString(),
      title,
      kind: kind ?? 'event',
      amount: null,
    })),
  ];
  return listAnswer(
    event,
    'events',
    schemas.EventsResponse.shape.events,
    rows.sort((a, b) => (a.date < b.date ? -1 : 1)),
  );
});
