import * as api from '$lib/api/screens/endpoints';
import { idOf, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { dropScreen, listScreens } from '$lib/server/market';

export const DELETE = handle(api.deleteScreen, async ({ path }) => {
  const id = idOf(path.id);
  if (id === null || !(await dropScreen(database(), id))) throw notFound(`there is no screen ${path.id}`);
  return { screens: await listScreens(database()) };
});
