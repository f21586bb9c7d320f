import * as api from '$lib/api/underlyings/endpoints';
import { ApiError } from '$lib/server/api';
import { database } from '$lib/server/database';
import { historyRows, listAdjustments, listBars, listMeasures, SERIES, USUAL_SERIES } from '$lib/server/market';
import { handleOfSymbol, knownUnderlying } from '../lookup';

export const GET = handleOfSymbol(api.history, async ({ path, query }) => {
  const series = query.series?.split(',').map((name) => name.trim()) ?? [...USUAL_SERIES];
  const unknown = series.find((name) => !SERIES.includes(name));
  if (unknown !== undefined) {
    const message = `there is no series ${unknown}; there are ${SERIES.join(', ')}`;
    throw new ApiError(400, 'Invalid input', message, { errors: [{ path: 'series', message }] });
  }
  const underlying = await knownUnderlying(path.symbol);
  const [bars, steps, measures] = await Promise.all([
    listBars(database(), underlying.symbol),
    listAdjustments(database(), [underlying.symbol]),
    listMeasures(database(), underlying.symbol),
  ]);
  const rows = historyRows(underlying, bars, steps.get(underlying.symbol) ?? [], measures, series).filter(
    (row) => (!query.from || String(row.date) >= query.from) && (!query.to || String(row.date) <= query.to),
  );
  return { symbol: underlying.symbol, series, rows };
});
