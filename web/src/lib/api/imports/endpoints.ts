import { defineEndpoint } from '../define';
import { ListQuery } from '../shared';
import { HoldingsResponse, ImportPreview, ImportQuery, ImportRecord, ImportSettings, ImportsResponse } from './schemas';

export const holdings = defineEndpoint({
  method: 'GET',
  path: '/holdings',
  access: 'open',
  summary: 'What is held, by underlying and session',
  response: HoldingsResponse,
});

export const listImports = defineEndpoint({
  method: 'GET',
  path: '/imports',
  access: 'open',
  summary: 'The latest imports',
  query: ListQuery,
  response: ImportsResponse,
  csv: 'imports',
});

export const startUpload = defineEndpoint({
  method: 'POST',
  path: '/imports',
  access: 'open',
  summary: 'Takes a file, streamed, and puts its import into the queue',
  query: ImportQuery,
  response: ImportRecord,
  creates: true,
  status: 202,
  reads: 'file',
});

export const getImport = defineEndpoint({
  method: 'GET',
  path: '/imports/{id}',
  access: 'open',
  summary: 'One import: progress, counts, and its bad rows',
  response: ImportRecord,
  example: { path: { id: '1' } },
});

export const importErrors = defineEndpoint({
  method: 'GET',
  path: '/imports/{id}/errors',
  access: 'open',
  summary: 'The bad rows of an import',
  query: ListQuery,
  response: ImportRecord.pick({ errors: true }),
  csv: 'errors',
  example: { path: { id: '1' } },
});

export const previewImport = defineEndpoint({
  method: 'POST',
  path: '/imports/{id}/preview',
  access: 'open',
  summary: 'The first rows of a file, as they would be read',
  body: ImportSettings,
  response: ImportPreview,
});

export const checkImport = defineEndpoint({
  method: 'POST',
  path: '/imports/{id}/check',
  access: 'open',
  summary: 'Finds out what an import would change, and what is wrong with the file',
  body: ImportSettings,
  response: ImportRecord,
});

export const startImport = defineEndpoint({
  method: 'POST',
  path: '/imports/{id}/start',
  access: 'open',
  summary: 'Imports a file that was held, checked or undone',
  body: ImportSettings,
  response: ImportRecord,
});

export const cancelImport = defineEndpoint({
  method: 'POST',
  path: '/imports/{id}/cancel',
  access: 'open',
  summary: 'Stops an import',
  response: ImportRecord,
});

export const undoImport = defineEndpoint({
  method: 'POST',
  path: '/imports/{id}/undo',
  access: 'open',
  summary: 'Puts back what an import has changed',
  response: ImportRecord,
});
