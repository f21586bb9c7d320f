/**
 * Formats: numbers, dates and findings into figures and words. Pure functions; imports the core.
 */
export * as figures from './figures';
export * from './dates';
export * from './words';
