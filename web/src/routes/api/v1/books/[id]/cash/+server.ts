import * as api from '$lib/api/book/endpoints';
import { payCash } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { found, numberOf } from '../../asked';

export const POST = handle(api.bookCash, async ({ path, body }) =>
  found('book', path.id, await payCash(database(), numberOf('book', path.id), body)),
);
