import { barsNeeded, historicalVol } from '@umwelt/core';
import * as api from '$lib/api/calculators/endpoints';
import { handle } from '$lib/server/handle';

export const POST = handle(api.realizedVol, async ({ body }) => {
  const { bars, window, estimator, periodsPerYear } = body;
  const column = (name: 'open' | 'high' | 'low' | 'close') => Float64Array.from(bars, (bar) => bar[name]);
  const columns = { open: column('open'), high: column('high'), low: column('low'), close: column('close') };
  const vols = historicalVol(columns, estimator, window, periodsPerYear);
  const first = barsNeeded(estimator, window) - 1;
  return { series: bars.slice(first).map(({ date }, i) => ({ date, vol: vols[first + i]! })) };
});
