/**
 * Data: the desk where files come in and what is held is seen. Imports state, formats, exports, tables and the layouts of files.
 */
export { DataDesk, type Settings, type Upload } from './desk.svelte';
export { default as ExportLine } from './ExportLine.svelte';
export { default as FeedLine } from './FeedLine.svelte';
export { default as Held } from './Held.svelte';
export { default as ImportList } from './ImportList.svelte';
export { default as ImportLook } from './ImportLook.svelte';
export { default as Quality } from './Quality.svelte';
