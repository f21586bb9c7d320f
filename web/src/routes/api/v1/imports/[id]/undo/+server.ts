import * as api from '$lib/api/imports/endpoints';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { takeBackImport } from '$lib/server/jobs';
import { importAnswer, importOf, orProblem } from '../../record';

export const POST = handle(api.undoImport, async ({ path }) => {
  const record = await importOf(path);
  return importAnswer(await orProblem(() => takeBackImport(database(), record)));
});
