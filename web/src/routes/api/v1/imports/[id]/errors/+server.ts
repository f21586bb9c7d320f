import { endpoint, listAnswer, schemas } from '$lib/server/api';
import { importOf } from '../../record';
import type { RequestEvent } from './$types';

export const GET = endpoint(async (event: RequestEvent) => {
  const { faults } = await importOf(event.params);
  // The database does not keep the order of the columns.
  const rows = faults.map(({ row, column, value, reason }) => ({ row, column, value, reason }));
  return listAnswer(event, 'errors', schemas.ImportRecord.shape.errors, rows);
});
