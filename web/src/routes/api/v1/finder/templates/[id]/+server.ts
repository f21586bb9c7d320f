import * as api from '$lib/api/finder/endpoints';
import { idOf, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { dropTemplate, listTemplates } from '$lib/server/finder';
import { handle } from '$lib/server/handle';

export const DELETE = handle(api.deleteTemplate, async ({ path }) => {
  const id = idOf(path.id);
  if (id === null || !(await dropTemplate(database(), id))) throw notFound(`there is no template ${path.id}`);
  return { templates: await listTemplates(database()) };
});
