/**
 * Exports: what is in view and what is held, as files. Imports tables, formats, the API and the kit of parts.
 */
export { default as ExportDialog } from './ExportDialog.svelte';
export { FORMATS, save, type Format } from './files';
export { offerTable, provideShown } from './shown';
export { EXPORT_CHOICES, exportPath, exportTask, formatsOf, isLong } from './stored';
