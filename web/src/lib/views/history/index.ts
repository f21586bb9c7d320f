/**
 * History: implied against realized session by session, where both stand, the cone, what implied vols earned, announcements.
 * Imports charts, film, formats, state, tables and the core.
 */
export { HistoryDesk } from './desk.svelte';
export { default as AnnouncementsPanel } from './AnnouncementsPanel.svelte';
export { default as Choices } from './Choices.svelte';
export { default as ConePanel } from './ConePanel.svelte';
export { default as HistoryTabs } from './HistoryTabs.svelte';
export { default as PathPanel } from './PathPanel.svelte';
export { default as PremiumPanel } from './PremiumPanel.svelte';
export { default as StandingPanel } from './StandingPanel.svelte';
