/**
 * Panels: what several views show of the market in hand.
 * Imports state, data, formats and the core.
 */
export { default as AsideList } from './AsideList.svelte';
