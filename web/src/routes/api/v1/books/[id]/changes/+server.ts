import * as api from '$lib/api/book/endpoints';
import { listChanges } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { numberOf } from '../../asked';

export const GET = handle(api.listChanges, async ({ path }) => ({
  changes: await listChanges(database(), numberOf('book', path.id)),
}));
