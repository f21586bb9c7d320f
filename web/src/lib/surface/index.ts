/**
 * Surface: the panels of the view beside its two charts.
 * Imports charts, exports, formats, state, tables as data, and the core.
 */
export { default as AsideList } from './AsideList.svelte';
export { default as ArbitrageList } from './ArbitrageList.svelte';
export { default as Density } from './Density.svelte';
export { default as ExpiryTable } from './ExpiryTable.svelte';
