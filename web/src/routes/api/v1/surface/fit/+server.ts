import { endpoint } from '$lib/server/api';
import { fitSurfaceApart } from '$lib/server/calculate';

export const POST = endpoint(fitSurfaceApart);
