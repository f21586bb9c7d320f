import { creatingEndpoint, endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { keepScreen, listScreens } from '$lib/server/market';
import { formulaOf } from '$lib/screen/columns';
import { readFormulas } from '../screen/formulas';

/** Stands in for columns of words, which have nothing to be checked. */
const NO_FORMULA = 'price';

const answer = async () => ({ screens: await listScreens(database()) });

export const GET = endpoint(answer);

export const POST = creatingEndpoint(database, async (event) => {
  const { version, ...screen } = await readBody(event, schemas.KeptScreenRequest);
  // What makes no sense is not kept.
  readFormulas({ columns: screen.columns.map((key) => formulaOf(key) ?? NO_FORMULA), filters: screen.filters });
  await keepScreen(database(), screen, version);
  return answer();
});
