import * as api from '$lib/api/imports/endpoints';
import { handle } from '$lib/server/handle';
import { importOf } from '../../record';

export const GET = handle(api.importErrors, async ({ path }) => {
  const { faults } = await importOf(path);
  // The database does not keep the order of the columns.
  return { errors: faults.map(({ row, column, value, reason }) => ({ row, column, value, reason })) };
});
