import { endpoint, idOf, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { dropScreen, listScreens } from '$lib/server/market';
import type { RequestEvent } from './$types';

export const DELETE = endpoint(async (event: RequestEvent) => {
  const id = idOf(event.params.id);
  if (id === null || !(await dropScreen(database(), id))) throw notFound(`there is no screen ${event.params.id}`);
  return { screens: await listScreens(database()) };
});
