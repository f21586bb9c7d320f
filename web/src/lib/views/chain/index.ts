/**
 * Chain: contracts of an underlying by expiry and strike, what they say, and what can be picked from them. Which lines there are
 * (`rows.ts`) is a pure function; the Svelte files draw them.
 */
export { ChainDesk } from './desk.svelte';
export { CHAIN_COLUMNS, CHAIN_SETS, setOfColumns, type ChainColumnId } from '$lib/columns';
export { higherGreeks } from '$lib/working/cells';
export { default as ChainTable } from './ChainTable.svelte';
export { default as ColumnChoice } from './ColumnChoice.svelte';
export { default as RangeChoice } from './RangeChoice.svelte';
export { default as UnitChoice } from './UnitChoice.svelte';
export { default as TargetLine } from './TargetLine.svelte';
export { default as StructureStrip } from './StructureStrip.svelte';
export { default as Drawer } from './Drawer.svelte';
export { default as DrawerBar } from './DrawerBar.svelte';
export { default as ExpiryChips } from './ExpiryChips.svelte';
