/**
 * Structure: what the legs in hand can gain and lose, when, by which vol, and how likely. `words.ts` and `charts/` are pure
 * functions of what the worker answers; the Svelte files draw them.
 */
export { StructureDesk } from './desk.svelte';
export { default as FactsPanel } from './FactsPanel.svelte';
export { default as LegsPanel } from './LegsPanel.svelte';
export { default as ProfilePanel } from './ProfilePanel.svelte';
export { default as Shelf } from './Shelf.svelte';
export { default as UnderPanel } from './UnderPanel.svelte';
