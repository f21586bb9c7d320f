import * as api from '$lib/api/imports/endpoints';
import { ApiError } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { missingColumns, readAs } from '$lib/server/ingest';
import { previewImport } from '$lib/server/jobs';
import { importOf, orProblem, settingsOf } from '../../record';

const SHOWN_ROWS = 20;

export const POST = handle(api.previewImport, async ({ path, body, event }) => {
  const record = await importOf(path);
  const settings = settingsOf(body);
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
