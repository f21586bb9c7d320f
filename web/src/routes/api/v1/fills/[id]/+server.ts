import * as api from '$lib/api/book/endpoints';
import { changeFill, deleteFill } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { booked, found, numberOf } from '../../books/asked';

export const PUT = handle(api.changeFill, async ({ path, body }) =>
  found('trade', path.id, await booked(changeFill(database(), numberOf('trade', path.id), body))),
);

export const DELETE = handle(api.deleteFill, async ({ path }) =>
  found('trade', path.id, await deleteFill(database(), numberOf('trade', path.id))),
);
