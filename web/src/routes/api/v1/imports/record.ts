import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { ApiError, idOf, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { HeaderError, TableError, type ImportSettings } from '$lib/server/ingest';
import { findImport, type HeldImport } from '$lib/server/jobs';

/** An import as a list has it. */
export function importSummary({ started, finished, ...record }: Omit<HeldImport, 'faults'>) {
  const { columns: _, conventions: __, isCancelled: ___, ...rest } = record;
  return { ...rest, started: started.toISOString(), finished: finished?.toISOString() ?? null };
}

/** An import as the API writes it. */
export function importAnswer({ faults, ...record }: HeldImport) {
  return { ...importSummary(record), errors: faults };
}

/** The import that a path names. */
export async function importOf(params: { id: string }): Promise<HeldImport> {
  const id = idOf(params.id);
  const record = id === null ? null : await findImport(database(), id);
  if (!record) throw notFound(`there is no import ${params.id}`);
  return record;
}

/** Settings of a body as the import takes them. */
export function settingsOf(body: z.infer<typeof schemas.ImportSettings>): ImportSettings {
  const { kind, columns, conventions, acceptBadRows } = body;
  return { matching: kind && columns ? { kind, columns } : undefined, conventions, acceptBadRows };
}

/** What an import answers, or the problem that stands in its way. */
export async function orProblem<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof TableError) throw new ApiError(422, 'The file cannot be read', error.message);
    if (error instanceof HeaderError) throw new ApiError(422, 'Columns are missing', error.message);
    throw error;
  }
}
