/** Finder: which structures pay for a view, and why. */
export { default as AskPanel } from './AskPanel.svelte';
export { default as RowsPanel } from './RowsPanel.svelte';
export { default as RowPanel } from './RowPanel.svelte';
export { FinderDesk } from './desk.svelte';
