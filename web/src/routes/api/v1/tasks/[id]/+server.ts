import * as api from '$lib/api/tasks/endpoints';
import { handle } from '$lib/server/handle';
import { taskAnswer, taskOf } from '../record';

export const GET = handle(api.getTask, async ({ path }) => taskAnswer(await taskOf(path)));
