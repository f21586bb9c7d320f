/**
 * Charts: figures as pure functions of what is loaded, and the components that draw them: with Plotly, and a body by hand.
 * Imports data, film, formats, tables, what is in view for export, the kit of parts, and the core.
 */
export { default as Chart } from './Chart.svelte';
export { default as Solid } from './Solid.svelte';
export { depthColor } from './depth';
export { linePath } from './line-path';
export { HeldRange, type Figure } from './figure';
export type { Moving } from './moving';
