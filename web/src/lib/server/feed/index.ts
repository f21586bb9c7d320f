/**
 * The simulated feed: the demo market, going on from its last moment. The market is a function of its moment, which
 * stands in the database; a worker states it and stores every quarter of an hour, every server streams what lies between.
 * May import the demo world, db, ingest and market.
 */
export { FeedHub, feedAnswer } from './hub';
export { keepFeed, type FeedKeeper } from './keeper';
export { LiveMarket } from './live';
export { feedSnapshot } from './snapshot';
export { readFeed, startFeed, stopFeed, type FeedState } from './state';
export { storeFeed } from './store';
