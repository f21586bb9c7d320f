import { ApiError, endpoint, readBody, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import { missingColumns, readAs } from '$lib/server/ingest';
import { previewImport } from '$lib/server/jobs';
import { importOf, orProblem, settingsOf } from '../../record';
import type { RequestEvent } from './$types';

const SHOWN_ROWS = 20;

export const POST = endpoint(async (event: RequestEvent) => {
  const record = await importOf(event.params);
  const settings = settingsOf(await readBody(event, schemas.ImportSettings));
  const inspected = await orProblem(() => previewImport(database(), record, settings, event.request.signal)).catch(
    (error: Error) => {
      // That a file cannot be read is what somebody wanted to know by looking.
      if (error instanceof ApiError && error.status === 422) return error.detail;
      throw error;
    },
  );
  if (typeof inspected === 'string') return { problem: inspected };
  const { format, header, guess, isSure, conventions, open, rows } = inspected;
  return {
    format,
    header,
    kind: guess.kind,
    columns: guess.columns,
    isSure,
    missing: missingColumns(guess.kind, Object.values(guess.columns)),
    conventions,
    open,
    rows: rows.slice(0, SHOWN_ROWS).map(({ number, cells }) => ({
      number,
      cells,
      read: cells.map((text, i) => readAs(text, guess.columns[header[i] ?? ''], conventions)),
    })),
  };
});
