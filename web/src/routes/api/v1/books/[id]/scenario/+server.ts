import * as api from '$lib/api/book/endpoints';
import { handle } from '$lib/server/handle';
import { bookJson, instantOf, numberOf } from '../../asked';

export const POST = handle(api.bookScenario, ({ path, body }) =>
  bookJson({ kind: 'scenario', bookId: numberOf('book', path.id), asof: instantOf(body.asof), asked: body }),
);
