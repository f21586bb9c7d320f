import { schemas } from '$lib/api';
import * as api from '$lib/api/book/endpoints';
import { csvAnswer, headsOf } from '$lib/server/api';
import { handle } from '$lib/server/handle';
import { bookJson, instantOf, numberOf } from '../../asked';

export const GET = handle(api.bookRisk, async ({ path, query }) => {
  const answer = await bookJson({
    ...{ kind: 'risk', bookId: numberOf('book', path.id), level: query.by, inSymbol: query.in ?? null },
    ...{ asof: instantOf(query.asof), ghost: instantOf(query.ghost) },
  });
  if (query.format !== 'csv') return answer;
  const { rows } = (await answer.json()) as { rows: { profit: object }[] };
  const flat = rows.map(({ profit, ...row }) => ({
    ...row,
    ...Object.fromEntries(Object.entries(profit).map(([name, value]) => [`profit_${name}`, value])),
  }));
  return csvAnswer('risk', flat[0] ? Object.keys(flat[0]) : headsOf(schemas.BookRiskResponse.shape.rows), flat);
});
