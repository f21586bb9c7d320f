/**
 * Odds: how far the price is expected to move and what became of that, where it may end by which law, and what that means for
 * a contract. `laws.ts`, `moves.ts`, `events.ts`, `words.ts` and `work.ts` are pure functions; the Svelte files draw them.
 */
export { OddsDesk } from './desk.svelte';
export { default as LawsPanel } from './LawsPanel.svelte';
export { default as LeftPanel } from './LeftPanel.svelte';
export { default as MovesPanel } from './MovesPanel.svelte';
export { default as RightPanel } from './RightPanel.svelte';
