import * as api from '$lib/api/underlyings/endpoints';
import { held } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { universeAt } from '$lib/server/market';
import { knownUnderlying } from './lookup';

export const GET = handle(api.getUnderlying, async ({ path, query }) => {
  const { asof } = query;
  const underlying = await knownUnderlying(path.symbol);
  const [row] = await universeAt(held(), asof ? new Date(asof) : undefined, underlying.symbol);
  return row!;
});
