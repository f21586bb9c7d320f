import { endpoint } from '$lib/server/api';
import { database } from '$lib/server/database';
import { cancelImport } from '$lib/server/jobs';
import { importAnswer, importOf, orProblem } from '../../record';
import type { RequestEvent } from './$types';

export const POST = endpoint(async ({ params }: RequestEvent) => {
  const record = await importOf(params);
  return importAnswer(await orProblem(() => cancelImport(database(), record)));
});
