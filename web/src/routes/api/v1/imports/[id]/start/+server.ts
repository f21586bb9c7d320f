import { endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { queueImport } from '$lib/server/jobs';
import { importAnswer, importOf, orProblem, settingsOf } from '../../record';
import type { RequestEvent } from './$types';

export const POST = endpoint(async (event: RequestEvent) => {
  const record = await importOf(event.params);
  const settings = settingsOf(await readBody(event, schemas.ImportSettings));
  return importAnswer(await orProblem(() => queueImport(database(), record, settings, 'queued', event.request.signal)));
});
