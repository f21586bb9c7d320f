/**
 * Surface: the panels of the view.
 * Imports charts, exports, film, formats, state, tables as data, and the core.
 */
export { default as LowerPanel } from './LowerPanel.svelte';
export { default as MapPanel } from './MapPanel.svelte';
export { default as MeasuresPanel } from './MeasuresPanel.svelte';
export { default as PairsPanel } from './PairsPanel.svelte';
export { default as SkewPanel } from './SkewPanel.svelte';
export { default as Strip } from './Strip.svelte';
export { default as TermPanel } from './TermPanel.svelte';
export { Comparison } from './comparison.svelte';
export { focusAt } from './pointed';
