/** Imports of files, and what is held. */
import { IANAZone } from 'luxon';
import { z } from 'zod';
import { FILE_KINDS } from '../../layouts';
import { day, moment, number, orNull, truth } from '../shared';
import { IMPORT_STATES } from './states';

export const Conventions = z
  .object({
    delimiter: z
      .enum([',', ';', '\t', '|'])
      .optional()
      .describe('between the cells of a CSV file; told from the header'),
    decimal: z.enum(['.', ',']).optional().describe('told from the cells where that can be'),
    dates: z.enum(['iso', 'dmy', 'mdy']).optional().describe('order of the parts of a day; told where that can be'),
    zone: z
      .string()
      .refine((name) => IANAZone.isValidZone(name), 'is no IANA zone')
      .optional()
      .describe('of times that name none; without it that of the exchange'),
  })
  .meta({ id: 'Conventions' });

export const ImportQuery = Conventions.extend({
  name: z.string().optional().describe('name of the file, for the record'),
  acceptBadRows: truth.describe(
    'import the good rows of a file that has bad ones; without it such a file changes nothing',
  ),
  hold: truth.describe('keep the file and wait, for its preview and check'),
});

/** How a file is to be read. */
export const ImportSettings = z
  .object({
    kind: z.enum(FILE_KINDS).optional(),
    columns: z.record(z.string(), z.string()).optional().describe('our columns by the names in the file'),
    conventions: Conventions.optional(),
    acceptBadRows: z.boolean().optional(),
  })
  .refine(({ kind, columns }) => (kind === undefined) === (columns === undefined), {
    message: 'kind and columns go together',
    path: ['columns'],
  });

const ReadablePreview = z
  .object({
    format: z.enum(['csv', 'json', 'parquet', 'xlsx', 'ics']),
    header: z.array(z.string()),
    kind: z.enum(FILE_KINDS),
    columns: z.record(z.string(), z.string()),
    isSure: z.boolean().describe('the names are ours, or were matched so before'),
    missing: z.array(z.string()).describe('required columns that nothing stands for'),
    conventions: Conventions,
    open: z.array(z.object({ convention: z.enum(['decimal', 'dates']), column: z.string(), example: z.string() })),
    rows: z.array(
      z.object({ number, cells: z.array(z.string()), read: z.array(z.string()).describe('as they are understood') }),
    ),
  })
  .meta({ id: 'ReadablePreview' });

export const ImportPreview = z
  .union([ReadablePreview, z.object({ problem: z.string().describe('why the file cannot be read') })])
  .meta({ id: 'ImportPreview' });

export const ImportSummary = z
  .object({
    id: number,
    file: z.string(),
    bytes: number,
    bytesRead: number,
    what: z.string().nullable().describe('kind of file, told from its header'),
    format: z.string().nullable(),
    status: z.enum(IMPORT_STATES),
    detail: z.string().nullable(),
    rows: number,
    badRows: number,
    acceptBadRows: z.boolean(),
    counts: z.record(z.string(), number),
    ignoredColumns: z.array(z.string()),
    isKept: z.boolean().describe('whether the file itself is still there, to be imported again'),
    started: moment,
    finished: moment.nullable(),
  })
  .meta({ id: 'ImportSummary' });

export const ImportRecord = ImportSummary.extend({
  errors: z.array(z.object({ row: number, column: z.string(), value: z.string(), reason: z.string() })),
}).meta({ id: 'Import' });

export const ImportsResponse = z.object({ imports: z.array(ImportSummary) }).meta({ id: 'Imports' });

export const HoldingsResponse = z
  .object({
    sessions: z.array(day).describe('from the first day held to the last, by the calendar of the exchange'),
    underlyings: z.array(
      z.object({
        symbol: z.string(),
        name: z.string(),
        moments: z.array(number).describe('snapshots on each session'),
        contracts: z.array(number).describe('in the last snapshot of each session'),
        usable: z.array(number).describe('contracts of these with an implied vol'),
        quality: z.array(orNull).describe('0…100, of the last snapshot of each session'),
        holes: z.array(day).describe('sessions without a snapshot between the first and the last that has one'),
        bars: number,
        prints: number,
      }),
    ),
  })
  .meta({ id: 'Holdings' });
