/** All schemas of the API. */
export * from './shared';
export * from './activity/schemas';
export * from './book/schemas';
export * from './calculators/schemas';
export * from './exports/schemas';
export * from './feed/schemas';
export * from './finder/schemas';
export * from './hedge/schemas';
export * from './imports/schemas';
export * from './screens/schemas';
export * from './service/schemas';
export * from './snapshots/contract-past';
export * from './snapshots/schemas';
export * from './structures/evaluation';
export * from './structures/schemas';
export * from './tasks/schemas';
export * from './underlyings/schemas';
