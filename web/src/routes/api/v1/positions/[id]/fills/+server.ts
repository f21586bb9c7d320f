import * as api from '$lib/api/book/endpoints';
import { bookFills } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { booked, found, numberOf } from '../../../books/asked';

export const POST = handle(api.bookFills, async ({ path, body }) => {
  const options = { pathOf: (at: number) => `fills.${at}`, said: body.words };
  const made = booked(bookFills(database(), numberOf('position', path.id), body.fills, options));
  return found('position', path.id, await made);
});
