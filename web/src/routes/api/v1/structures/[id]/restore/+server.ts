import * as api from '$lib/api/structures/endpoints';
import { idOf, notFound } from '$lib/server/api';
import { database, structuresHub } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { listStructures, restoreStructure } from '$lib/server/market';

export const POST = handle(api.restoreStructure, async ({ path }) => {
  const id = idOf(path.id);
  if (id === null || !(await restoreStructure(database(), id))) {
    throw notFound(`no structure ${path.id} was deleted`);
  }
  structuresHub().look();
  return { structures: await listStructures(database()) };
});
