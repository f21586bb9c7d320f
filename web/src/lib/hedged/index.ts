/**
 * What hedging a structure would have brought, over what is held of its past: a panel of Structure and of Hedge. `past.ts` and
 * `figure.ts` are pure; the worker of the past does the work.
 */
export { default as HedgedPanel } from './HedgedPanel.svelte';
export { HEDGED_PARAMS, type HedgedParams } from './params';
