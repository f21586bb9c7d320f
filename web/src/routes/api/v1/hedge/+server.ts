import { neutralize } from '@umwelt/core';
import * as api from '$lib/api/hedge/endpoints';
import { ApiError } from '$lib/server/api';
import { handle } from '$lib/server/handle';

export const POST = handle(api.hedge, ({ body }) => {
  const found = neutralize(body);
  if ('refused' in found)
    throw new ApiError(422, 'Not to be hedged', found.refused, {
      errors: [{ path: 'instruments', message: found.refused }],
    });
  return { trades: found.steps.map(({ id, quantity }) => ({ id, quantity })), ...found };
});
