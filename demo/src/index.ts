/**
 * The demo world: a seeded market model of the invented Meridian Isles that writes the open file formats.
 * It knows nothing of the database. Imports the core.
 */
export { BOOK as DEMO_BOOK } from './book';
export { snapshotOf } from './chains';
export { DEMO_FILES, DEMO_VERSION, writeChain, writeRest, writeTables, type Told } from './files';
export { Feed, type FeedBar } from './feed';
export { advance, FEED_START, feedPoints, hoursAt, hoursOf, type FeedPoint, type SessionHours } from './feed-clock';
export type { Print } from './prints';
export type { Quote } from './quotes';
export { UNDERLYINGS } from './underlyings';
export { CLOCK, type UnderlyingSpec, type WorldEvent } from './world';
