import { ApiError, endpoint, VERSION } from '$lib/server/api';
import { database } from '$lib/server/database';
import { isAnswering } from '$lib/server/market';

export const GET = endpoint(async () => {
  if (!(await isAnswering(database()))) throw new ApiError(503, 'Unavailable', 'the database does not answer');
  return { status: 'ok', database: 'ok', version: VERSION };
});
