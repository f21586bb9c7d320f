import { barsNeeded, historicalVol } from '@umwelt/core';
import { endpoint, readBody, schemas } from '$lib/server/api';

export const POST = endpoint(async (event) => {
  const { bars, window, estimator, periodsPerYear } = await readBody(event, schemas.RealizedVolRequest);
  const column = (name: 'open' | 'high' | 'low' | 'close') => Float64Array.from(bars, (bar) => bar[name]);
  const columns = { open: column('open'), high: column('high'), low: column('low'), close: column('close') };
  const vols = historicalVol(columns, estimator, window, periodsPerYear);
  const first = barsNeeded(estimator, window) - 1;
  return { series: bars.slice(first).map(({ date }, i) => ({ date, vol: vols[first + i]! })) };
});
