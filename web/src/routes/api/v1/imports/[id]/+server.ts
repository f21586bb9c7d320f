import { endpoint, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { findImport } from '$lib/server/market';
import { importAnswer } from '../record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const id = Number(event.params.id);
  const record = Number.isSafeInteger(id) && id > 0 && id < 2 ** 31 ? await findImport(database(), id) : null;
  if (!record) throw notFound(`there is no import ${event.params.id}`);
  return importAnswer(record);
});
