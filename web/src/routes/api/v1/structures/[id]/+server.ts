import * as api from '$lib/api/structures/endpoints';
import { idOf, notFound } from '$lib/server/api';
import { database, structuresHub } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { changeStructure, dropStructure, listStructures } from '$lib/server/market';

const missing = (id: string) => notFound(`there is no structure ${id}`);

export const PUT = handle(api.changeStructure, async ({ path, body }) => {
  const { version, ...change } = body;
  const id = idOf(path.id);
  if (id === null || !(await changeStructure(database(), id, version, change))) throw missing(path.id);
  structuresHub().look();
  return { structures: await listStructures(database()) };
});

export const DELETE = handle(api.deleteStructure, async ({ path }) => {
  const id = idOf(path.id);
  if (id === null || !(await dropStructure(database(), id))) throw missing(path.id);
  structuresHub().look();
  return { structures: await listStructures(database()) };
});
