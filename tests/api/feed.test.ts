import { Feed, FEED_START, hoursOf } from '@umwelt/demo';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  FeedResponse,
  HistoryResponse,
  ImportRecord,
  SnapshotResponse,
  StreamPrices,
  UnderlyingsResponse,
} from '../../web/src/lib/api/schemas';
import { openDatabase, type Database } from '../../web/src/lib/server/db';
import { rememberDemo } from '../../web/src/lib/server/demo-held';
import { LiveMarket, readFeed, startFeed, stopFeed, storeFeed } from '../../web/src/lib/server/feed';
import { stateFeed } from '../../web/src/lib/server/feed/state';
import { get, post, problemOf, request } from './client';
import { makeDatabase, type OwnDatabase } from './own-database';

/** The feed runs on a server and a database of its own: it adds to the demo that others test. */
const FEED = `${process.env.FEED_URL ?? 'http://127.0.0.1:4892'}/api/v1`;
const DATABASE_URL = process.env.FEED_DATABASE_URL ?? '';
const MINUTE = 60_000;
const NEXT_DAY = '2031-03-14';

const feed = () => get(`${FEED}/feed`, FeedResponse);
const order = (body: unknown) => post(`${FEED}/feed`, body, FeedResponse);

/** How much is held, and up to where: what a reset must bring back. */
async function held(database: Database) {
  const { rows } = await database.execute(sql`
    SELECT (SELECT count(*)::int FROM snapshots) AS snapshots, (SELECT count(*)::int FROM slices) AS slices,
      (SELECT count(*)::int FROM fits) AS fits, (SELECT count(*)::int FROM measures) AS measures,
      (SELECT count(*)::int FROM prints) AS prints, (SELECT count(*)::int FROM bars) AS bars,
      (SELECT count(*)::int FROM rates) AS rates, (SELECT max(asof)::text FROM snapshots) AS asof,
      (SELECT count(*)::int FROM feed) AS feed`);
  return rows[0]!;
}

interface Message {
  event: string;
  data: unknown;
}

/** Reads server-sent events until enough of them have come. */
async function listen(path: string, isEnough: (messages: Message[]) => boolean): Promise<Message[]> {
  const gone = new AbortController();
  const response = await request(FEED + path, { signal: gone.signal });
  expect(response.status).toBe(200);
  expect(response.headers.get('content-type')).toBe('text/event-stream');
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  const messages: Message[] = [];
  let rest = '';
  while (!isEnough(messages)) {
    const { value, done } = await reader.read();
    expect(done).toBe(false);
    const parts = (rest + value!).split('\n\n');
    rest = parts.pop()!;
    for (const part of parts.filter((one) => !one.startsWith(':'))) {
      const [event, data, ...more] = part.split('\n');
      expect(more).toEqual([]);
      messages.push({ event: event!.replace('event: ', ''), data: JSON.parse(data!.replace('data: ', '')) });
    }
  }
  gone.abort();
  return messages;
}

const of = (messages: Message[], event: string) => messages.filter((message) => message.event === event);

describe('the simulated feed', () => {
  let database: Database;
  let untouched: Awaited<ReturnType<typeof held>>;
  beforeAll(async () => {
    database = openDatabase(DATABASE_URL);
    untouched = await held(database);
  });
  afterAll(() => database.$client.end());

  it('is not there before it has been started: nothing of it is held, and nothing but its state is told', async () => {
    expect(await feed()).toEqual({
      status: 'stopped',
      speed: 1,
      moment: '2031-03-13T16:45:00.000Z',
      storedTo: '2031-03-13T16:45:00.000Z',
      isBegun: false,
      importId: null,
      isKept: true,
    });
    const messages = await listen('/stream?symbols=CAIR', ({ length }) => length > 0);
    expect(messages.map(({ event }) => event)).toEqual(['feed']);
    expect(untouched['feed']).toBe(0);
    // To stop and to reset what has not begun changes nothing.
    expect((await order({ action: 'stop' })).isBegun).toBe(false);
    expect((await order({ action: 'reset' })).isBegun).toBe(false);
    expect(await held(database)).toEqual(untouched);
  });

  it('refuses what it does not understand', async () => {
    const body = (value: unknown) => ({ method: 'POST', body: JSON.stringify(value) });
    await problemOf(`${FEED}/feed`, 400, body({ action: 'rewind' }));
    await problemOf(`${FEED}/feed`, 400, body({ action: 'start', speed: 0 }));
    await problemOf(`${FEED}/feed`, 400, body({ action: 'start', speed: 61 }));
    await problemOf(`${FEED}/stream?symbols=NONE`, 404);
  });

  it('is listened to by five hundred at a time, the next is told so', async () => {
    const leaving = new AbortController();
    const listen = () => fetch(`${FEED}/stream`, { signal: leaving.signal });
    const all = await Promise.all(Array.from({ length: 500 }, listen));
    expect(new Set(all.map(({ status }) => status))).toEqual(new Set([200]));
    await problemOf(`${FEED}/stream`, 503);
    leaving.abort();
    // Their places are free as soon as they are gone.
    const status = async () => {
      const one = await fetch(`${FEED}/stream`);
      await one.body!.cancel();
      return one.status;
    };
    await expect.poll(status).toBe(200);
  });

  it('runs at a speed, at another, and stands still', async () => {
    const started = await order({ action: 'start', speed: 10 });
    expect(started).toMatchObject({ status: 'running', speed: 10, isBegun: true, isKept: true });
    const [first, later] = of(await listen('/stream', (all) => of(all, 'prices').length >= 4), 'prices').slice(2);
    const moment = (message: Message) => Date.parse(StreamPrices.parse(message.data).moment);
    // Told once a second, at ten seconds of the market each; a busy machine may tell later, never the same again.
    expect((moment(later!) - moment(first!)) / 1000).toBeGreaterThanOrEqual(9);
    expect((await order({ action: 'start', speed: 1 })).speed).toBe(1);
    const stopped = await order({ action: 'stop' });
    expect(stopped.status).toBe('stopped');
    expect((await feed()).moment).toBe(stopped.moment);
    expect(Date.parse(stopped.moment)).toBeGreaterThan(FEED_START);
  });

  it('streams prices of all underlyings and snapshots of those asked for, derived as stored ones are', async () => {
    const all = await listen('/stream?symbols=CAIR,MRX40', (messages) => of(messages, 'snapshot').length === 2);
    const { moment } = FeedResponse.parse(of(all, 'feed')[0]!.data);
    const prices = StreamPrices.parse(of(all, 'prices')[0]!.data);
    expect(prices.moment).toBe(moment);
    const { underlyings } = await get(`${FEED}/underlyings`, UnderlyingsResponse);
    const isListed = ({ expires }: (typeof underlyings)[number]) => expires === null || expires > moment.slice(0, 10);
    const listed = underlyings.filter(isListed).map(({ symbol }) => symbol);
    expect(listed).not.toHaveLength(underlyings.length);
    expect(Object.keys(prices.prices).sort()).toEqual(listed.sort());
    const market = new Feed();
    for (const { data } of of(all, 'snapshot')) {
      const snapshot = SnapshotResponse.parse(data);
      expect(snapshot.asof).toBe(moment);
      expect(snapshot.price).toBe(prices.prices[snapshot.symbol]);
      expect(snapshot.price).toBe(market.moment(snapshot.symbol, Date.parse(moment)).price);
      expect(snapshot.measures!.iv30!).toBeGreaterThan(0.05);
    }
  });

  it('stores every quarter of an hour once, whoever tries, as it was streamed', async () => {
    const market = new Feed();
    const { open, close } = hoursOf(NEXT_DAY);
    const state = await readFeed(database);
    const streamed = await new LiveMarket(database).snapshot('CAIR', open, state.storedTo);
    // The close of the last session, then the open and two quarters of the next.
    const until = open + 31 * MINUTE;
    const stored = await Promise.all([
      storeFeed(database, market, until),
      storeFeed(database, new Feed(), until),
      storeFeed(database, market, FEED_START + 20 * MINUTE),
    ]);
    expect(stored.reduce((sum, count) => sum + count, 0)).toBe(4);
    expect(await storeFeed(database, market, until)).toBe(0);
    const snapshot = await get(`${FEED}/underlyings/CAIR/snapshots/2031-03-14T10:30:00Z`, SnapshotResponse);
    expect(snapshot).toEqual(JSON.parse(JSON.stringify(streamed)));
    const { rows } = await get(`${FEED}/underlyings/CAIR/history?from=2031-03-13&series=close,high`, HistoryResponse);
    expect(rows[0]).toMatchObject({ close: market.moment('CAIR', hoursOf('2031-03-13').close).price });
    expect(rows[0]!['high']).toBeGreaterThanOrEqual(rows[0]!['close'] as number);
    const now = await held(database);
    expect(now['asof']).toContain('2031-03-14 11:00');
    const { rows: tape } = await database.execute<{ size: number }>(
      sql`SELECT coalesce(sum(size), 0)::int AS size FROM prints WHERE symbol = 'CAIR' AND time > ${new Date(open)}`,
    );
    const told = market.chain('CAIR', open + 30 * MINUTE).quotes.reduce((sum, { volume }) => sum + volume, 0);
    const before = market.chain('CAIR', open).quotes.reduce((sum, { volume }) => sum + volume, 0);
    expect(tape[0]!.size).toBe(told - before);
    const record = await get(`${FEED}/imports/${(await feed()).importId!}`, ImportRecord);
    const { snapshots, prints, bars, rates } = now as Record<string, number>;
    expect(record).toMatchObject({ what: 'feed', status: 'done' });
    expect(record.counts.added).toBe(
      snapshots! +
        prints! +
        bars! +
        rates! -
        ['snapshots', 'prints', 'bars', 'rates'].reduce((sum, name) => sum + (untouched[name] as number), 0),
    );
    expect(close).toBeGreaterThan(until);
  });

  it('reset, everything of it is gone and the demo as it was', async () => {
    const { importId } = await feed();
    expect((await order({ action: 'reset' })).isBegun).toBe(false);
    await expect
      .poll(async () => (await get(`${FEED}/imports/${importId!}`, ImportRecord)).status, POLL)
      .toBe('undone');
    expect(await held(database)).toEqual(untouched);
    const { moment } = await order({ action: 'start', speed: 1 });
    // It begins anew, under an import of its own.
    expect(Date.parse(moment) - FEED_START).toBeLessThan(5000);
    const { importId: next } = await order({ action: 'stop' });
    expect(next).toBeGreaterThan(importId!);
    await order({ action: 'reset' });
    await expect.poll(async () => (await get(`${FEED}/imports/${next!}`, ImportRecord)).status, POLL).toBe('undone');
    expect(await held(database)).toEqual(untouched);
  });
});

const POLL = { interval: 100 };

describe('the state of the feed, in a database without a worker', () => {
  let own: OwnDatabase;
  let database: Database;
  beforeAll(async () => {
    own = await makeDatabase('feed_state');
    database = own.database;
  });
  afterAll(() => own.remove());

  it('cannot be started where nothing of the demo is held', async () => {
    await expect(startFeed(database, 1)).rejects.toThrow('the feed goes on with the demo market');
    expect((await readFeed(database)).importId).toBeNull();
  });

  it('stands still when nobody looks after it, and goes on from there', async () => {
    await rememberDemo(database, 'CAIR');
    await startFeed(database, 10);
    // As if every worker had been gone for an hour.
    await database.execute(sql`UPDATE feed SET stated = clock_timestamp() - interval '1 hour'`);
    // Ten seconds at a speed of ten, and no more.
    expect(await readFeed(database)).toMatchObject({ isKept: false, moment: FEED_START + 100_000 });
    expect(await stateFeed(database)).toBe(FEED_START + 100_000);
    const { isKept, moment } = await readFeed(database);
    expect(isKept).toBe(true);
    expect(moment).toBeGreaterThanOrEqual(FEED_START + 100_000);
    expect(moment).toBeLessThan(FEED_START + 200_000);
  });

  it('is stated by one of many, and by none once it has been stopped', async () => {
    await startFeed(database, 60);
    const moments = [];
    for (let n = 0; n < 5; n++) {
      await Promise.all([stateFeed(database), stateFeed(database), stateFeed(database)]);
      moments.push((await readFeed(database)).moment);
    }
    // Never back, and no faster than its speed.
    expect(moments).toEqual([...moments].sort((a, b) => a - b));
    await stopFeed(database);
    expect(await stateFeed(database)).toBeNull();
    const { moment } = await readFeed(database);
    expect((await readFeed(database)).moment).toBe(moment);
  });
});
