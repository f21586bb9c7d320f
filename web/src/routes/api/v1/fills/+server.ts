import * as api from '$lib/api/book/endpoints';
import { bookFills } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { booked, found } from '../books/asked';

export const POST = handle(api.bookFill, async ({ body: { position, ...fill } }) =>
  found('position', position, await booked(bookFills(database(), position, [fill], { pathOf: () => 'fill' }))),
);
