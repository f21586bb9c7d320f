import * as api from '$lib/api/book/endpoints';
import { handle } from '$lib/server/handle';
import { bookJson, numberOf } from '../../asked';

export const GET = handle(api.bookProfits, ({ path, query: { ids, to, by } }) =>
  bookJson({
    ...{ kind: 'profits', bookId: numberOf('book', path.id), asof: null },
    asked: { ids: ids.split(',').map(Number), to: Date.parse(to), by },
  }),
);
