import { endpoint } from '$lib/server/api';
import { surfaceAnswer } from '$lib/server/market';
import { requestedSnapshot } from '../lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { underlying, stored } = await requestedSnapshot(event);
  return surfaceAnswer(underlying, stored);
});
