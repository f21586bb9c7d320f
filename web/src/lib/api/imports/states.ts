export const IMPORT_STATES = [
  /** Its file comes in. */
  'receiving',
  /** Uploaded; waits for somebody to look at it. */
  'received',
  'checking',
  'checked',
  'queued',
  'running',
  /** Its rows are in; what depends on them is derived again. */
  'deriving',
  'done',
  /** Has bad rows; nothing was changed. */
  'refused',
  /** Cannot be read; nothing was changed. */
  'failed',
  'cancelled',
  /** What it did is taken back; what depends on that is derived again. */
  'undoing',
  'undone',
] as const;
export type ImportState = (typeof IMPORT_STATES)[number];
