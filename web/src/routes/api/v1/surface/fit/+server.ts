import * as api from '$lib/api/calculators/endpoints';
import { fitSurfaceApart } from '$lib/server/calculate';
import { handle } from '$lib/server/handle';

export const POST = handle(api.fitSurface, ({ event }) => fitSurfaceApart(event));
