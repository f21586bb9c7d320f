import * as api from '$lib/api/structures/endpoints';
import { eventsAnswer } from '$lib/server/api';
import { structuresHub } from '$lib/server/database';
import { handle } from '$lib/server/handle';

export const GET = handle(api.streamStructures, ({ query }) =>
  Promise.resolve(eventsAnswer(structuresHub().listen(query.asof ?? null))),
);
