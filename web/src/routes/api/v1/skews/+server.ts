import { endpoint, readBody, schemas } from '$lib/server/api';
import { database, held } from '$lib/server/database';
import { skewsAt } from '$lib/server/market';

export const POST = endpoint(async (event) => {
  const { symbols, days, asof } = await readBody(event, schemas.SkewsRequest);
  return skewsAt(database(), held(), symbols, days, asof ? new Date(asof) : undefined);
});
