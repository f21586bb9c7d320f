import * as api from '$lib/api/service/endpoints';
import { ApiError, VERSION } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { isAnswering } from '$lib/server/market';

export const GET = handle(api.health, async () => {
  if (!(await isAnswering(database()))) throw new ApiError(503, 'Unavailable', 'the database does not answer');
  return { status: 'ok', database: 'ok', version: VERSION } as const;
});
