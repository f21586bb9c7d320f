/**
 * The demo world: a seeded market model of the invented Meridian Isles that writes the open file formats.
 * It knows nothing of the database. Imports the core.
 */
export { DEMO_VERSION, writeDemo } from './files';
export { CLOCK, UNDERLYINGS, type UnderlyingSpec, type WorldEvent } from './world';
