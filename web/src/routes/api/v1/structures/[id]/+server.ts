import { endpoint, idOf, notFound, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { changeStructure, dropStructure, listStructures } from '$lib/server/market';
import type { RequestEvent } from './$types';

const missing = (id: string) => notFound(`there is no structure ${id}`);

export const PUT = endpoint(async (event: RequestEvent) => {
  const { version, ...change } = await readBody(event, schemas.StructureChange);
  const id = idOf(event.params.id);
  if (id === null || !(await changeStructure(database(), id, version, change))) throw missing(event.params.id);
  return { structures: await listStructures(database()) };
});

export const DELETE = endpoint(async (event: RequestEvent) => {
  const id = idOf(event.params.id);
  if (id === null || !(await dropStructure(database(), id))) throw missing(event.params.id);
  return { structures: await listStructures(database()) };
});
