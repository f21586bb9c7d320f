import { endpoint, readBody, schemas } from '$lib/server/api';
import { held } from '$lib/server/database';
import { conesAt } from '$lib/server/market';

export const POST = endpoint(async (event) => {
  const { symbols, estimator, asof } = await readBody(event, schemas.ConesRequest);
  return conesAt(held(), symbols, estimator, asof ? new Date(asof) : undefined);
});
