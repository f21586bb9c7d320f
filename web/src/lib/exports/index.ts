/**
 * Exports: what is in view and what is held, as files. Imports tables, formats, state and the dialog of the frame.
 */
export { default as ExportDialog } from './ExportDialog.svelte';
export { FORMATS, save, type Format } from './files';
export { offerTable, provideShown } from './shown';
export { EXPORT_CHOICES, exportPath, exportTask, formatsOf, isLong } from './stored';
