import { idOf, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { fileNameOf, findTask, type Task } from '$lib/server/jobs';

/** A task as the API writes it. */
export function taskAnswer(task: Task) {
  const { id, kind, status, done, total, detail, fileBytes, started, finished } = task;
  return {
    id,
    kind,
    status,
    done,
    total,
    detail,
    file: fileNameOf(task),
    fileBytes,
    started: started.toISOString(),
    finished: finished?.toISOString() ?? null,
  };
}

/** The task that a path names. */
export async function taskOf(params: { id: string }): Promise<Task> {
  const id = idOf(params.id);
  const task = id === null ? null : await findTask(database(), id);
  if (!task) throw notFound(`there is no task ${params.id}`);
  return task;
}
