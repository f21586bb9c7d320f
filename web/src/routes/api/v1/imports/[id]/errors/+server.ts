import { endpoint, listAnswer } from '$lib/server/api';
import { importOf } from '../../record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) =>
  listAnswer(event, 'errors', (await importOf(event.params)).faults),
);
