import * as api from '$lib/api/book/endpoints';
import { handle } from '$lib/server/handle';
import { bookJson, numberOf, spanOf } from '../../asked';

export const GET = handle(api.explainBook, ({ path, query: { from, to, method, by } }) =>
  bookJson({
    ...{ kind: 'explain', bookId: numberOf('book', path.id), asof: null },
    asked: { ...spanOf(from, to), method, by, step: null, id: null },
  }),
);
