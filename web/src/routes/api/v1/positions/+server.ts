import { schemas } from '$lib/api';
import * as api from '$lib/api/book/endpoints';
import { csvAnswer, headsOf } from '$lib/server/api';
import { openPosition } from '$lib/server/book';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { booked, bookJson, found, instantOf } from '../books/asked';

export const GET = handle(api.listPositions, async ({ query }) => {
  const { book: bookId, by, format } = query;
  const moments = { asof: instantOf(query.asof), ghost: instantOf(query.ghost) };
  const answer = await bookJson({ kind: 'positions', bookId, by, ...moments });
  if (format !== 'csv') return answer;
  const { positions } = (await answer.json()) as { positions: { profit: object; tags: string[] }[] };
  const rows = positions.map(({ profit, tags, ...row }) => ({
    ...row,
    tags: tags.join('; '),
    ...Object.fromEntries(Object.entries(profit).map(([name, value]) => [`profit_${name}`, value])),
  }));
  return csvAnswer(
    'positions',
    rows[0] ? Object.keys(rows[0]) : headsOf(schemas.PositionsResponse.shape.positions),
    rows,
  );
});

export const POST = handle(api.openPosition, async ({ body }) =>
  found('book', body.book, await booked(openPosition(database(), body))),
);
