import * as api from '$lib/api/structures/endpoints';
import { handle } from '$lib/server/handle';
import { keepAll } from '../keep';

export const POST = handle(api.keepStructures, ({ body }) =>
  keepAll(body.structures, body.asof, (at) => `structures[${at}].legs`),
);
