/**
 * Jobs: long work off the request, in a queue of the database. A row says what is to be done and how far it is; a job
 * names it; any worker does it, again from its beginning where one was lost.
 * May import db, ingest, export and the demo world.
 */
export { demoSymbols, isDemoHeld } from '../demo-held';
export { FIRST_SYMBOLS } from './demo';
export { cancelTask, findTask, listTasks, runTask, startTask, TaskCancelled, type Task, type TaskKind } from './tasks';
export { fileNameOf, readTaskFile, startExport } from './exports';
export { wakeFeed } from './queue';
export { startWorker, type Worker } from './worker';
export {
  cancelImport,
  findImport,
  listImports,
  previewImport,
  queueImport,
  receiveImport,
  takeBackImport,
  type HeldImport,
} from './imports';
