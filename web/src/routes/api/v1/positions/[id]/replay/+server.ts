import * as api from '$lib/api/book/endpoints';
import { findPosition } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { bookJson, found, instantOf, numberOf } from '../../../books/asked';

export const GET = handle(api.replayPosition, async ({ path, query: { from, to, step, by } }) => {
  const position = found('position', path.id, await findPosition(database(), numberOf('position', path.id)));
  return bookJson({
    ...{ kind: 'replay', bookId: position.bookId, asof: null },
    asked: { from: instantOf(from) ?? 0, to: instantOf(to), step, by, id: position.id },
  });
});
