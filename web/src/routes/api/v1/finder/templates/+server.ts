import * as api from '$lib/api/finder/endpoints';
import { database } from '$lib/server/database';
import { keepTemplate, listTemplates, readConditions } from '$lib/server/finder';
import { handle } from '$lib/server/handle';
import { orRefused } from '../refused';

const answer = async () => ({ templates: await listTemplates(database()) });

export const GET = handle(api.listTemplates, answer);

export const POST = handle(api.keepTemplate, async ({ body: { name, asked, version } }) => {
  // What makes no sense is not kept.
  await orRefused(() => readConditions(asked.limits));
  await keepTemplate(database(), name, asked, version);
  return answer();
});
