import * as api from '$lib/api/imports/endpoints';
import { ANY_SYMBOL } from '$lib/server/api/kept';
import { holdingsCounts } from '$lib/server/database';
import { handleKept } from '$lib/server/handle';

export const GET = handleKept(
  api.holdings,
  () => holdingsCounts().holdings(),
  () => ANY_SYMBOL,
);
