/**
 * Charts: figures as pure functions of what is loaded, and the components that draw them: with Plotly, and a body by hand.
 * Imports data, film, formats, tables, what is in view for export, the kit of parts, and the core.
 */
export { default as Chart } from './Chart.svelte';
export { default as Solid } from './Solid.svelte';
export { densityFigure, densityMoving, densitySentence, holdDensity, lawsOfExpiry, type Laws } from './density';
export {
  deliveriesFigure,
  deliveriesMoving,
  deliveriesOf,
  deliveriesSentence,
  holdDeliveries,
  priceState,
  type Delivery,
} from './deliveries';
export { depthColor } from './depth';
export { linePath } from './line-path';
export { HeldRange, type Figure } from './figure';
export { pathFigure, strokeOf, type PathLine } from './history';
export { aroundFigure } from './around';
export { coneFigure, coneSentence } from './cone';
export { LAWS_MARGIN, lawsFigure, lawsRange, lawStyle } from './laws';
export { priceMovesFigure, sessionMovesFigure, type Bar, type Candle } from './price-moves';
export { painFigure } from './pain';
export { hedgeFigure } from './hedge';
export { performanceFigure } from './performance';
export { premiumFigure, premiumRows, premiumSentence } from './premium';
export { besideColor, besideLine, comparedAt, type Beside, type Compared } from './beside';
export { axisValue, strikeAt } from './curve-line';
export {
  axisText,
  hasSides,
  heatFigure,
  heatMoving,
  QUANTITIES,
  quantityFigure,
  quantityMoving,
  quantityText,
  solidOf,
  type MapReach,
  type MapInput,
} from './map';
export { PAIR_MARGIN, pairFigure } from './pairs';
export type { Moving } from './moving';
export { holdSkew, skewFigure, skewMoving, skewPoints, type SkewView } from './skew';
export {
  comingEvents,
  holdTerm,
  readVol,
  termExpiries,
  termFigure,
  termLines,
  termMoving,
  timedEvents,
  type TermExpiry,
  type TermInput,
} from './term';
