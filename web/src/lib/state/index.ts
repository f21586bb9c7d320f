/**
 * State: the one context, what is loaded for it, and the theme. Imports workers (for data) and the core.
 */
export {
  AXES,
  COLUMN_SETS,
  EXPIRY_CLASSES,
  HISTORY_VIEWS,
  IMPLIED_NAMES,
  LOOKBACKS,
  LOWERS,
  DEFAULT_CONTEXT,
  MOST_COLUMNS,
  PEER_SESSIONS,
  MOST_CONDITIONS,
  MAP_FORMS,
  MOST_BESIDE,
  PLAY_SPANS,
  PLAY_SPEEDS,
  PLAY_STEPS,
  QUOTES,
  readContext,
  SKEW_SCALES,
  SPANS,
  SKEW_SIDES,
  SURFACE_PANELS,
  SURFACE_VIEWS,
  TERM_LAYERS,
  UNDERLYING_KINDS,
  WALLS,
  WINDOWS,
  writeContext,
  type Axis,
  type Context,
  type ImpliedName,
  type Lower,
  type Span,
  type TermReading,
  type Wall,
} from './context';
export { centreOf, expiryIndex, nearestIndex, resolveFocus, type Contract, type Focus } from './focus';
export {
  barsOf,
  barsTo,
  lastBarIndex,
  momentIndex,
  realizedOver,
  stepAlong,
  valueOf,
  type KnownBars,
} from './measures';
export {
  isRunning,
  loadSummaries,
  loadUniverse,
  type HistoryRow,
  type Market,
  type MarketEvent,
  type Task,
  type UniverseRow,
} from './api';
export { provideWorkbench, useWorkbench, type Valued, type Workbench } from './workbench.svelte';
export { useTheme, type Tokens } from './theme.svelte';
