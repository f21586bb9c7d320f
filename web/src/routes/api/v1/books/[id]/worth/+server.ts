import * as api from '$lib/api/book/endpoints';
import { handle } from '$lib/server/handle';
import { bookJson, instantOf, numberOf } from '../../asked';

export const GET = handle(api.bookWorth, ({ path, query }) =>
  bookJson({
    ...{ kind: 'worth', bookId: numberOf('book', path.id), by: query.by, beta: query.beta ?? null },
    ...{ asof: instantOf(query.asof), ghost: instantOf(query.ghost) },
  }),
);
