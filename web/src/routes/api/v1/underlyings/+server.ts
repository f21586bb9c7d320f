import * as api from '$lib/api/underlyings/endpoints';
import { held } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { universeAt } from '$lib/server/market';

export const GET = handle(api.listUnderlyings, async ({ query: { asof } }) => ({
  underlyings: await universeAt(held(), asof ? new Date(asof) : undefined),
}));
