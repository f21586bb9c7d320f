import * as api from '$lib/api/screens/endpoints';
import { formulaOf } from '$lib/columns';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { keepScreen, listScreens } from '$lib/server/market';
import { readFormulas } from '../screen/formulas';

/** Stands in for columns of words, which have nothing to be checked. */
const NO_FORMULA = 'price';

const answer = async () => ({ screens: await listScreens(database()) });

export const GET = handle(api.listScreens, answer);

export const POST = handle(api.keepScreen, async ({ body }) => {
  const { version, ...screen } = body;
  // What makes no sense is not kept.
  readFormulas({ columns: screen.columns.map((key) => formulaOf(key) ?? NO_FORMULA), filters: screen.filters });
  await keepScreen(database(), screen, version);
  return answer();
});
