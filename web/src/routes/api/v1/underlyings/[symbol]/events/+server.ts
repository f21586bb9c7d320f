import { calendarById, dayOf } from '@umwelt/core';
import * as api from '$lib/api/underlyings/endpoints';
import { database } from '$lib/server/database';
import { listEvents } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

export const GET = handleOfSymbol(api.events, async ({ path }) => {
  const { symbol, calendar } = await knownUnderlying(path.symbol);
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
  return { events: rows.sort((a, b) => (a.date < b.date ? -1 : 1)) };
});
