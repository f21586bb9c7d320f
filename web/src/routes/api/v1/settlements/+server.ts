import * as api from '$lib/api/book/endpoints';
import { settle } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';

export const PUT = handle(api.settle, async ({ body }) => {
  await settle(database(), body);
  return {};
});
