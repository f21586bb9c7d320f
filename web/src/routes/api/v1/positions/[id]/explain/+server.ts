import * as api from '$lib/api/book/endpoints';
import { findPosition } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { bookJson, found, numberOf, spanOf } from '../../../books/asked';

export const GET = handle(api.explainPosition, async ({ path, query: { from, to, method, by, step = null } }) => {
  const position = found('position', path.id, await findPosition(database(), numberOf('position', path.id)));
  return bookJson({
    ...{ kind: 'explain', bookId: position.bookId, asof: null },
    asked: { ...spanOf(from, to), method, by, step, id: position.id },
  });
});
