import * as api from '$lib/api/imports/endpoints';
import { handle } from '$lib/server/handle';
import { importAnswer, importOf } from '../record';

export const GET = handle(api.getImport, async ({ path }) => importAnswer(await importOf(path)));
