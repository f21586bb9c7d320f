import { ApiError, endpoint, readQuery, schemas } from '$lib/server/api';
import { feedHub } from '$lib/server/database';
import { knownUnderlying } from '../underlyings/[symbol]/lookup';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { symbols } = readQuery(event, schemas.StreamQuery);
  const wanted = [...new Set(symbols?.split(',').filter(Boolean))];
  for (const symbol of wanted) await knownUnderlying(symbol);
  const stream = feedHub().listen(wanted);
  if (!stream)
    throw new ApiError(503, 'Too many streams', 'as many streams are open as may be: close some, or ask again');
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-cache', 'x-accel-buffering': 'no' },
  });
});
