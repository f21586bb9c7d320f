import { endpoint } from '$lib/server/api';
import { calculate } from '$lib/server/calculate';

export const POST = endpoint((event) => calculate(event, 'price'));
