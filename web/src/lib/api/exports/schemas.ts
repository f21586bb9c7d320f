/** Tables as files. */
import { z } from 'zod';
import { day, moment, number, symbolList } from '../shared';

export const bound = z.union([day, moment]);

export const ExportQuery = z.object({
  symbol: symbolList.optional().describe('symbols, separated by commas; all when not given'),
  asof: moment.optional().describe('one moment alone'),
  from: bound.optional(),
  to: bound.optional(),
});

const cell = z.union([z.string(), number, z.null()]);

export const ViewTable = z
  .object({
    columns: z
      .array(z.object({ name: z.string().min(1), type: z.enum(['text', 'number', 'day', 'instant']) }))
      .min(1)
      .max(200),
    rows: z.array(z.array(cell)).max(500_000),
  })
  .superRefine(({ columns, rows }, context) => {
    const isWrong = (row: (string | number | null)[]) =>
      row.length !== columns.length ||
      row.some((value, i) => value !== null && (typeof value === 'number') !== (columns[i]!.type === 'number'));
    const at = rows.findIndex(isWrong);
    if (at >= 0) {
      context.addIssue({ code: 'custom', path: ['rows', at], message: 'the cells are not those of the columns' });
    }
  })
  .describe('a table of any columns; numbers are numbers, everything else is text');
