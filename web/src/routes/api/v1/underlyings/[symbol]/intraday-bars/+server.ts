import { csvAnswer, notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { BAR_MINUTES, findAsof, listIntradayBars } from '$lib/server/market';
import { keptEndpoint, knownUnderlying } from '../lookup';
import type { RequestEvent } from './$types';

const COLUMNS = ['time', 'open', 'high', 'low', 'close', 'volume'];

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const { asof, format } = readQuery(event, schemas.IntradayBarsQuery);
  const underlying = await knownUnderlying(event.params.symbol);
  const { symbol } = underlying;
  const to = asof ? new Date(asof) : await findAsof(database(), symbol);
  if (!to) throw notFound(`no snapshot of ${symbol} is held, and no moment is given`);
  const { day, bars } = await listIntradayBars(database(), underlying, to);
  if (format === 'csv') return csvAnswer('intraday-bars', COLUMNS, bars);
  return { symbol, day, minutes: BAR_MINUTES, bars };
});
