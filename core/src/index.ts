/** The computation of Umwelt: pure functions, free of interface, DOM, Node and database. */
export * from './book';
export * from './chain';
export * from './contracts';
export * from './distributions';
export * from './explain';
export * from './formula';
export * from './hedge';
export * from './implied';
export * from './models';
export * from './odds';
export * from './quality';
export * from './quotes';
export * from './rates';
export * from './realized';
export * from './structures';
export * from './surface';
export * from './time';
