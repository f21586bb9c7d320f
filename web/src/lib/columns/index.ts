/**
 * Columns: what the tables of the chain and of the Universe can show, and what formulas may name. The page and the server both
 * read it. Imports formats and the core.
 */
export * from './chain';
export * from './measures';
export * from './screens';
export * from './universe';
