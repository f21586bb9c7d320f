import * as api from '$lib/api/screens/endpoints';
import { database, held } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { skewsAt } from '$lib/server/market';

export const POST = handle(api.skews, async ({ body }) => {
  const { symbols, days, asof } = body;
  return skewsAt(database(), held(), symbols, days, asof ? new Date(asof) : undefined);
});
