/**
 * Pricer: the contract that the page prices, from what is in focus and what is typed over it. Fields and terms are pure
 * functions; the worker does the mathematics; the components draw. Imports the core, state, formats and charts.
 */
export { PricerDesk } from './desk.svelte';
export { default as Carry } from './Carry.svelte';
export { default as Compared } from './Compared.svelte';
export { default as Fields } from './Fields.svelte';
export { default as Market } from './Market.svelte';
export { default as Moved } from './Moved.svelte';
export { default as Reading } from './Reading.svelte';
export { default as Solve } from './Solve.svelte';
export { default as Sweep } from './Sweep.svelte';
export { default as Working } from './Working.svelte';
