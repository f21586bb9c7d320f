/**
 * Address: the whole context of the page, read from the query of its address and written into it. Imports columns and the core.
 */
export * from './context';
