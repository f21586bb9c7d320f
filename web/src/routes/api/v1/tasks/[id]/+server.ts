import { endpoint } from '$lib/server/api';
import { taskAnswer, taskOf } from '../record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async ({ params }: RequestEvent) => taskAnswer(await taskOf(params)));
