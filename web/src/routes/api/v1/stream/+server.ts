import * as api from '$lib/api/feed/endpoints';
import { eventsAnswer } from '$lib/server/api';
import { feedHub } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { knownUnderlying } from '../underlyings/[symbol]/lookup';

export const GET = handle(api.stream, async ({ query }) => {
  const { symbols } = query;
  const wanted = [...new Set(symbols?.split(',').filter(Boolean))];
  for (const symbol of wanted) await knownUnderlying(symbol);
  return eventsAnswer(feedHub().listen(wanted));
});
