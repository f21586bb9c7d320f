import { endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { keepScreen, listScreens } from '$lib/server/market';
import { readFormulas } from '../screen/formulas';

const answer = async () => ({ screens: await listScreens(database()) });

export const GET = endpoint(answer);

export const POST = endpoint(async (event) => {
  const screen = await readBody(event, schemas.KeptScreenRequest);
  // What makes no sense is not kept.
  readFormulas(screen);
  await keepScreen(database(), screen);
  return answer();
});
