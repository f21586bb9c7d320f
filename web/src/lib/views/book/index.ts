/**
 * The Book: positions with what they brought, where the risk comes from, and what could happen. Imports the core, api, book, state, ui,
 * exports, formats and tables.
 */
export { BookDesk } from './desk.svelte';
export { default as ExplainedPanel } from './ExplainedPanel.svelte';
export { default as FamiliesPanel } from './FamiliesPanel.svelte';
export { default as LimitsPanel } from './LimitsPanel.svelte';
export { default as PositionsPanel } from './PositionsPanel.svelte';
export { default as ScenarioPanel } from './ScenarioPanel.svelte';
