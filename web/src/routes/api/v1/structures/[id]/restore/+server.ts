import { endpoint, idOf, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { listStructures, restoreStructure } from '$lib/server/market';
import type { RequestEvent } from './$types';

export const POST = endpoint(async (event: RequestEvent) => {
  const id = idOf(event.params.id);
  if (id === null || !(await restoreStructure(database(), id))) {
    throw notFound(`no structure ${event.params.id} was let go of`);
  }
  return { structures: await listStructures(database()) };
});
