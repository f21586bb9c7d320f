import { endpoint } from '$lib/server/api';
import { importAnswer, importOf } from '../record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async ({ params }: RequestEvent) => importAnswer(await importOf(params)));
