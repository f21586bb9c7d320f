/**
 * Finder: looks through underlyings in threads and orders what is found; kept for an hour, as what is asked next is mostly another
 * order of the same. May import the core, db, market and threads.
 */
export { FinderError, Finder, prepareFinder, readConditions } from './finder';
export { dropTemplate, keepTemplate, listTemplates } from './templates';
export type { FinderBody } from './work';
