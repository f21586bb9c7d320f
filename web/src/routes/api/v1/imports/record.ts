import type { ImportRecord } from '$lib/server/ingest';

/** An import as the API writes it. */
export function importAnswer({ faults, started, finished, ...record }: ImportRecord) {
  return { ...record, errors: faults, started: started.toISOString(), finished: finished?.toISOString() ?? null };
}
