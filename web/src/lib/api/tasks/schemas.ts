/** Long work. */
import { z } from 'zod';
import { bound } from '../exports/schemas';
import { moment, number, symbol } from '../shared';

const ofSymbols = z.array(symbol).max(10_000).optional().describe('all underlyings when not given');

export const TaskRequest = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('rebuild'), symbols: ofSymbols }),
  z.object({
    kind: z.literal('export'),
    file: z.string().describe('as in /exports, such as chain.parquet'),
    symbols: ofSymbols,
    asof: moment.optional().describe('one moment alone'),
    from: bound.optional(),
    to: bound.optional(),
  }),
]);

export const TaskRecord = z
  .object({
    id: number,
    kind: z.enum(['demo', 'rebuild', 'export']),
    status: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
    done: number,
    total: number,
    detail: z.string().nullable(),
    file: z.string().nullable().describe('name of the file that it makes'),
    fileBytes: z.number().nullable().describe('its size, when it is there: /tasks/{id}/file'),
    started: moment,
    finished: moment.nullable(),
  })
  .meta({ id: 'Task' });

export const TasksResponse = z.object({ tasks: z.array(TaskRecord) }).meta({ id: 'Tasks' });
