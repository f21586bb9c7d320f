import * as api from '$lib/api/book/endpoints';
import { changeBookTerms, deleteBook } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { booked, found, numberOf } from '../asked';

export const PUT = handle(api.changeBook, async ({ path, body }) =>
  found('book', path.id, await booked(changeBookTerms(database(), numberOf('book', path.id), body))),
);

export const DELETE = handle(api.deleteBook, async ({ path }) =>
  found('book', path.id, await deleteBook(database(), numberOf('book', path.id))),
);
