import * as api from '$lib/api/imports/endpoints';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { queueImport } from '$lib/server/jobs';
import { importAnswer, importOf, orProblem, settingsOf } from '../../record';

export const POST = handle(api.checkImport, async ({ path, body, event }) => {
  const record = await importOf(path);
  const settings = settingsOf(body);
  return importAnswer(
    await orProblem(() => queueImport(database(), record, settings, 'checking', event.request.signal)),
  );
});
