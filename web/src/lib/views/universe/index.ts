/**
 * Screens: the table, the wall and the peers of the Universe, with formulas as columns and conditions. Imports charts, columns,
 * formats, state, tables and the core.
 */
export { default as ColumnMenu } from './ColumnMenu.svelte';
export { default as Conditions } from './Conditions.svelte';
export { default as FormulaInput } from './FormulaInput.svelte';
export { default as Narrowing } from './Narrowing.svelte';
export { default as PeersPanel } from './PeersPanel.svelte';
export { default as ScreenMenu } from './ScreenMenu.svelte';
export { default as UniverseTable } from './UniverseTable.svelte';
export { default as WallPanel } from './WallPanel.svelte';
export { orderOf } from './rows';
export { RANKED_SESSIONS, ScreenDesk } from './desk.svelte';
