/**
 * Chain: contracts of an underlying by expiry and strike, what they say, and what can be picked from them. What stands in a
 * cell (`cells.ts`) and which lines there are (`rows.ts`) are pure functions; the Svelte files draw them.
 */
export { ChainDesk } from './desk.svelte';
export { CHAIN_COLUMNS, CHAIN_SETS, setOfColumns, type ChainColumnId } from './columns';
export { higherGreeks } from './cells';
export { default as ChainTable } from './ChainTable.svelte';
export { default as ColumnChoice } from './ColumnChoice.svelte';
export { default as RangeChoice } from './RangeChoice.svelte';
export { default as UnitChoice } from './UnitChoice.svelte';
export { default as TargetLine } from './TargetLine.svelte';
export { default as StructureStrip } from './StructureStrip.svelte';
export { default as Drawer } from './Drawer.svelte';
export { default as ExpiryChips } from './ExpiryChips.svelte';
