import type { Database } from '../db';
import { Hub, message, type Listener } from '../stream';
import { LiveMarket } from './live';
import { readFeed, type FeedState } from './state';

/** The feed as the API writes it. */
export function feedAnswer({ status, speed, moment, storedTo, importId, isKept }: FeedState) {
  const iso = (at: number) => new Date(Math.floor(at / 1000) * 1000).toISOString();
  return { status, speed, moment: iso(moment), storedTo: iso(storedTo), isBegun: importId !== null, importId, isKept };
}

/** Tells who listens how the feed goes on: its state, the prices of all underlyings, and snapshots of those that one names. */
export class FeedHub extends Hub<readonly string[]> {
  private readonly market: LiveMarket;
  private said = { state: '', moment: NaN };

  constructor(private readonly database: Database) {
    super('simulated feed');
    this.market = new LiveMarket(database);
  }

  protected async tell(listeners: readonly Listener<readonly string[]>[]): Promise<boolean> {
    const state = await readFeed(this.database);
    const answer = feedAnswer(state);
    const moment = Math.floor(state.moment / 1000) * 1000;
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
    this.said = { state: JSON.stringify(lasting), moment };
    return told.length > 0;
  }
}
