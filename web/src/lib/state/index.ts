/**
 * State: what the whole page shows and what moves it. Imports the address, data, film, working and the kit of parts.
 */
export {
  MOST_LEGS,
  MOST_MANUAL,
  PAST_LAWS,
  PLAY_SPANS,
  PLAY_SPEEDS,
  PLAY_STEPS,
  QUOTES,
  WINDOWS,
  type Context,
} from '$lib/address';
export { centreOf, expiryIndex, nearestIndex, namedExpiries, resolveFocus, type Focus } from '$lib/data/focus';
export {
  barsOf,
  barsTo,
  lastBarIndex,
  momentIndex,
  realizedOver,
  stepAlong,
  valueOf,
  type KnownBars,
} from '$lib/data/measures';
export {
  isRunning,
  loadSummaries,
  loadSnapshot,
  loadUniverse,
  type HistoryRow,
  type Market,
  type MarketEvent,
  type Task,
  type UniverseRow,
} from '$lib/data/api';
export { Loaded, problemOf } from '$lib/data/loaded.svelte';
export { Steps } from './steps.svelte';
export type { FocusChange } from './focus.svelte';
export { provideWorkbench, useParams, useWorkbench, type Workbench } from './workbench.svelte';
export type { Valued } from '$lib/data/valued';
export { useTheme, type Tokens } from '$lib/ui/theme.svelte';
