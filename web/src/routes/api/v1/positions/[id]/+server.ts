import * as api from '$lib/api/book/endpoints';
import { changePosition, deletePosition, findPosition } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { booked, bookJson, found, instantOf, numberOf } from '../../books/asked';

export const GET = handle(api.getPosition, async ({ path, query }) => {
  const position = found('position', path.id, await findPosition(database(), numberOf('position', path.id)));
  return bookJson({
    ...{ kind: 'position', bookId: position.bookId, id: position.id, by: query.by },
    ...{ asof: instantOf(query.asof), ghost: instantOf(query.ghost) },
  });
});

export const PUT = handle(api.changePosition, async ({ path, body }) =>
  found('position', path.id, await booked(changePosition(database(), numberOf('position', path.id), body))),
);

export const DELETE = handle(api.deletePosition, async ({ path }) =>
  found('position', path.id, await deletePosition(database(), numberOf('position', path.id))),
);
