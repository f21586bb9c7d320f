import { endpoint, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { dropScreen, listScreens } from '$lib/server/market';
import type { RequestEvent } from './$types';

const MOST_ID = 2 ** 31 - 1;

export const DELETE = endpoint(async (event: RequestEvent) => {
  const id = Number(event.params.id);
  const isId = Number.isInteger(id) && id > 0 && id <= MOST_ID;
  if (!isId || !(await dropScreen(database(), id))) throw notFound(`there is no screen ${event.params.id}`);
  return { screens: await listScreens(database()) };
});
