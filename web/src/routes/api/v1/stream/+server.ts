import * as api from '$lib/api/feed/endpoints';
import { ApiError } from '$lib/server/api';
import { feedHub } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { knownUnderlying } from '../underlyings/[symbol]/lookup';

export const GET = handle(api.stream, async ({ query }) => {
  const { symbols } = query;
  const wanted = [...new Set(symbols?.split(',').filter(Boolean))];
  for (const symbol of wanted) await knownUnderlying(symbol);
  const stream = feedHub().listen(wanted);
  if (!stream)
    throw new ApiError(503, 'Too many streams', 'as many streams are open as may be: close some, or ask again');
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-cache', 'x-accel-buffering': 'no' },
  });
});
