import * as api from '$lib/api/calculators/endpoints';
import { calculate } from '$lib/server/calculate';
import { handle } from '$lib/server/handle';

export const POST = handle(api.impliedVol, ({ event }) => calculate(event, 'implied-vol'));
