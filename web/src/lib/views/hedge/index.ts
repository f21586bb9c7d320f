/**
 * Hedge: what to trade so that Greeks are nothing, and what is left. `plan.ts` and `charts/` are pure functions of what the worker
 * answers; the Svelte files draw them.
 */
export { HedgeDesk } from './desk.svelte';
export { default as AheadPanel } from './AheadPanel.svelte';
export { default as BelowTabs } from './BelowTabs.svelte';
export { default as ExposurePanel } from './ExposurePanel.svelte';
export { default as InstrumentsPanel } from './InstrumentsPanel.svelte';
export { default as StepsPanel } from './StepsPanel.svelte';
