/**
 * Charts: figures as pure functions of what is loaded, and the one component that draws them with Plotly.
 * Imports formats, tables as data, the types of state and workers, what is in view for export, and the core.
 */
export { default as Chart } from './Chart.svelte';
export { densityFigure, densitySentence, lawsOf, lawsOfSlice, type Laws } from './density';
export { depthColor } from './depth';
export { HeldRange, type Figure } from './figure';
export { historyFigure, historyPoints, seriesOf, ESTIMATOR_NAMES } from './history';
export { skewFigure } from './skew';
export { comingEvents, termFigure, termSlices } from './term';
