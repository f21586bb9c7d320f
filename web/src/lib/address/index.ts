/**
 * Address: what of the page's state stands in its address, defined by its keys; how such parameters are read from a query and
 * written into it, and the context that all views share. Imports the core.
 */
export * from './context';
export { Codec } from './codec';
export type { Params } from './params';
