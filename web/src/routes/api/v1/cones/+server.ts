import * as api from '$lib/api/screens/endpoints';
import { held } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { conesAt } from '$lib/server/market';

export const POST = handle(api.cones, async ({ body }) => {
  const { symbols, estimator, asof } = body;
  return conesAt(held(), symbols, estimator, asof ? new Date(asof) : undefined);
});
