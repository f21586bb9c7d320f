import { z } from 'zod';
import { defineEndpoint } from '../define';
import { ExportQuery, ViewTable } from './schemas';

export const exportFile = defineEndpoint({
  method: 'GET',
  path: '/exports/{file}',
  access: 'open',
  summary:
    'A table as a file: {underlyings, rates, dividends, events, bars, intraday-bars, chain, prints, positions, fills, settlements, measures}.{csv, json, xlsx, parquet, ics}',
  query: ExportQuery,
  response: z.unknown(),
  names: { file: 'such as chain.parquet' },
  answers: 'file',
  example: { path: { file: 'underlyings.csv' } },
});

export const writeFile = defineEndpoint({
  method: 'POST',
  path: '/exports/{file}',
  access: 'open',
  summary: 'A table that is sent, as a file of another format',
  body: ViewTable,
  response: z.unknown(),
  names: { file: 'a name and a format, such as skew.xlsx' },
  reads: 'json-apart',
  answers: 'file',
});
