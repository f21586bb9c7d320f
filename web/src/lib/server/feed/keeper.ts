import { Feed, feedPoints } from '@umwelt/demo';
import type { Database } from '../db';
import { messageOf } from '../errors';
import { readFeed, stateFeed } from './state';
import { storeFeed } from './store';

export interface FeedKeeper {
  /** Polls at once: the feed was started or stopped. */
  wake: () => void;
  stop: () => void;
}

const OFTEN_MS = 500;
const SELDOM_MS = 5000;

/**
 * Looks after the simulated feed: states how far its market has come, and stores what that has brought. Any number of
 * workers may do so at once; each point is stored by one of them.
 */
export function keepFeed(database: Database): FeedKeeper {
  let market: Feed | null = null;
  let isStopped = false;
  let isStoring = false;
  let saidLast = '';
  let wake: () => void = () => undefined;

  const say = (error: unknown) => {
    const words = messageOf(error);
    if (!isStopped && words !== saidLast) console.error(`simulated feed: ${words}`);
    saidLast = words;
  };
  const store = async () => {
    const { importId, moment, storedTo } = await readFeed(database);
    if (importId === null || feedPoints(storedTo, moment).length === 0) return;
    market ??= new Feed();
    await storeFeed(database, market, moment, () => !isStopped);
  };
  const look = async () => {
    const isRunning = (await stateFeed(database)) !== null;
    if (isStoring) return isRunning;
    isStoring = true;
    // Not waited for: the market goes on meanwhile.
    store()
      .catch(say)
      .finally(() => (isStoring = false));
    return isRunning;
  };
  const rest = (ms: number) =>
    new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, ms);
      wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  const keep = async () => {
    while (!isStopped) {
      const isRunning = await look().catch((error: unknown) => {
        say(error);
        return false;
      });
      await rest(isRunning ? OFTEN_MS : SELDOM_MS);
    }
  };
  void keep();
  return {
    wake: () => wake(),
    stop() {
      isStopped = true;
      wake();
    },
  };
}
