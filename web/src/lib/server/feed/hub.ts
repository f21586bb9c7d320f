import type { Database } from '../db';
import { messageOf } from '../errors';
import { Listener, message } from '../stream';
import { LiveMarket } from './live';
import { readFeed, type FeedState } from './state';

const TICK_MS = 1000;
const ALIVE_MS = 15_000;
const MOST_LISTENERS = 500;

/** The feed as the API writes it. */
export function feedAnswer({ status, speed, moment, storedTo, importId, isKept }: FeedState) {
  const iso = (at: number) => new Date(Math.floor(at / 1000) * 1000).toISOString();
  return { status, speed, moment: iso(moment), storedTo: iso(storedTo), isBegun: importId !== null, importId, isKept };
}

/** Tells all listeners of a process how the feed goes on. Works as long as somebody listens. */
export class FeedHub {
  private readonly listeners = new Set<Listener<readonly string[]>>();
  private readonly market: LiveMarket;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private isTelling = false;
  private said = { state: '', moment: NaN };
  private aliveAt = 0;
  private complaint = '';

  constructor(private readonly database: Database) {
    this.market = new LiveMarket(database);
  }

  /**
   * A stream of server-sent events: the state, the prices of all underlyings, snapshots of some. Null where as many listen
   * already as there may.
   */
  listen(symbols: readonly string[]): ReadableStream<Uint8Array> | null {
    if (this.listeners.size >= MOST_LISTENERS) return null;
    const listener = new Listener(symbols);
    const stream = listener.stream(() => this.listeners.delete(listener));
    this.listeners.add(listener);
    this.look();
    return stream;
  }

  /** Polls at once: a listener has joined, or the feed was changed. */
  look(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    // One at a time; listeners that join meanwhile are served at the next look.
    if (this.isTelling) return;
    this.isTelling = true;
    const started = performance.now();
    this.tell()
      .catch((error: unknown) => this.complain(messageOf(error)))
      .finally(() => {
        this.isTelling = false;
        if (this.listeners.size === 0) return;
        const isAwaited = [...this.listeners].some((listener) => listener.isNew);
        const rest = isAwaited ? 0 : Math.max(0, TICK_MS - (performance.now() - started));
        this.timer = setTimeout(() => this.look(), rest);
      });
  }

  /** Says what is wrong, once as long as it is the same. */
  private complain(words: string): void {
    if (words !== this.complaint) console.error(`simulated feed: ${words}`);
    this.complaint = words;
  }

  private async tell(): Promise<void> {
    const state = await readFeed(this.database);
    const answer = feedAnswer(state);
    const moment = Math.floor(state.moment / 1000) * 1000;
    const listeners = [...this.listeners];
    // The moment goes with the prices; of the state only a change is said.
    const { moment: _moment, ...lasting } = answer;
    const isChanged = JSON.stringify(lasting) !== this.said.state;
    const hasMoved = moment !== this.said.moment || isChanged;
    const told = listeners.filter((listener) => listener.isNew || hasMoved);
    for (const listener of told) {
      if (listener.isNew || isChanged) listener.say('feed', message('feed', answer));
    }
    if (answer.isBegun && told.length > 0) {
      const prices = message('prices', {
        moment: answer.moment,
        prices: await this.market.prices(moment, state.storedTo),
      });
      for (const listener of told) listener.say('prices', prices);
      for (const symbol of new Set(told.flatMap((listener) => listener.topic))) {
        const snapshot = await this.market.snapshot(symbol, moment, state.storedTo);
        if (!snapshot) continue;
        const said = message('snapshot', snapshot);
        for (const listener of told) if (listener.topic.includes(symbol)) listener.say(`snapshot ${symbol}`, said);
      }
    }
    for (const listener of told) listener.isNew = false;
    if (told.length > 0) this.aliveAt = performance.now();
    else if (performance.now() - this.aliveAt > ALIVE_MS) {
      // A proxy may close an idle connection, so a comment is sent now and then.
      for (const listener of listeners) listener.say('alive', ': still here\n\n');
      this.aliveAt = performance.now();
    }
    this.said = { state: JSON.stringify(lasting), moment };
    this.complaint = '';
  }
}
