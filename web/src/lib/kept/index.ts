/**
 * Kept: structures that people keep and share, valued as the market goes, which several views show. Imports api, exports, formats,
 * state, structure, tables, working and the kit of parts.
 */
export { default as KeptPanel } from './KeptPanel.svelte';
export { keepInHand, legsOfKept, loadKeptStructures, nameOf, openKept, type KeptStructure } from './structures';
