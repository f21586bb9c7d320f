import * as api from '$lib/api/underlyings/endpoints';
import { notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { BAR_MINUTES, findAsof, listIntradayBars } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

export const GET = handleOfSymbol(api.intradayBars, async ({ path, query }) => {
  const { asof } = query;
  const underlying = await knownUnderlying(path.symbol);
  const { symbol } = underlying;
  const to = asof ? new Date(asof) : await findAsof(database(), symbol);
  if (!to) throw notFound(`no snapshot of ${symbol} is held, and no moment is given`);
  const { day, bars } = await listIntradayBars(database(), underlying, to);
  return { symbol, day, minutes: BAR_MINUTES, bars };
});
