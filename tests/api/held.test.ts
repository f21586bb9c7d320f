import { historicalVol } from '@umwelt/core';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ensurePartitions, inTransaction, readColumns, tables } from '../../web/src/lib/server/db';
import { HeldColumns } from '../../web/src/lib/server/market/held';
import { makeDatabase, type OwnDatabase } from './own-database';

const { underlyings, measures, bars, dividends, events, snapshots } = tables;

let own: OwnDatabase;
let held: HeldColumns;

const measured = (symbol: string, asof: string, iv30: number | null, price = 100) => ({
  ...{ symbol, asof: new Date(asof), iv30, price, varianceIndex: 25 },
  ...{ contracts: 10, usable: 8, volume: 30, putVolume: 12, frontExpiry: '2031-03-20', method: 1 },
});

const DAYS = ['2031-03-07', '2031-03-10', '2031-03-11', '2031-03-12', '2031-03-13'];
const CLOSES = [100, 102, 101, 104, 103];

beforeAll(async () => {
  own = await makeDatabase('held');
  const { database } = own;
  held = new HeldColumns(database);
  const terms = { kind: 'equity' as const, multiplier: 100, exercise: 'american' as const, calendar: 'MRX' };
  await database.insert(underlyings).values([
    { ...terms, symbol: 'OAK', name: 'Oak' },
    { ...terms, symbol: 'ELM', name: 'Elm' },
  ]);
  await inTransaction(database, (session) => ensurePartitions(database, session, ['2029-03', '2031-03']));
  await database
    .insert(measures)
    .values([
      measured('OAK', '2031-03-11T16:45:00Z', 0.2),
      measured('OAK', '2031-03-12T15:00:00Z', 0.21),
      measured('OAK', '2031-03-12T16:45:00Z', 0.22),
      measured('OAK', '2031-03-13T16:45:00Z', null, 105),
      measured('ELM', '2031-03-12T16:45:00Z', 0.5),
    ]);
  await database.insert(bars).values(
    DAYS.map((date, i) => ({
      ...{ symbol: 'OAK', date, open: CLOSES[i]!, high: CLOSES[i]! + 1, low: CLOSES[i]! - 1, close: CLOSES[i]! },
      volume: 5,
    })),
  );
});

afterAll(() => own.remove());

const read = async (name: string, sessions = 1, asof?: string) => {
  const view = await held.read([name], sessions, { moment: asof ? new Date(asof) : undefined });
  const series = view.series(name, sessions);
  const at = (symbol: string) => view.underlyings.findIndex((one) => one.symbol === symbol) * sessions;
  return {
    oak: [...series.subarray(at('OAK'), at('OAK') + sessions)],
    elm: [...series.subarray(at('ELM'), at('ELM') + sessions)],
  };
};

describe('columns that are held', () => {
  it('are those of the last moments of the sessions, NaN for what there is not', async () => {
    expect(await read('iv30', 4)).toEqual({ oak: [NaN, 0.2, 0.22, NaN], elm: [NaN, NaN, NaN, 0.5] });
    expect((await read('index')).oak).toEqual([0.25]);
    // In the middle of a session its own moment stands for it.
    expect(await read('iv30', 2, '2031-03-12T15:30:00Z')).toEqual({ oak: [0.2, 0.21], elm: [NaN, NaN] });
    expect((await read('iv30', 1, '2031-03-01T00:00:00Z')).oak).toEqual([NaN]);
  });
  it('have vols of the bars that were over, and bar by bar before the first moment', async () => {
    const columns = Object.fromEntries(
      [0, 1, -1, 0].map((add, i) => [
        ['open', 'high', 'low', 'close'][i]!,
        Float64Array.from(CLOSES, (close) => close + add),
      ]),
    ) as never;
    const vols = historicalVol(columns, 'close', 2);
    // A quarter to four the bar of the day is not over.
    expect((await read('hv2.close', 3)).oak).toEqual([NaN, vols[2], vols[3]]);
    expect((await read('before', 2)).oak).toEqual([101, 104]);
    expect((await read('front', 1)).oak).toEqual([7]);
  });
  it('follow what is added, changed, taken away, and split', async () => {
    const { database } = own;
    await database.insert(measures).values(measured('ELM', '2031-03-13T16:45:00Z', 0.6));
    expect((await read('iv30', 2)).elm).toEqual([0.5, 0.6]);
    await database
      .update(measures)
      .set({ iv30: 0.7 })
      .where(sql`symbol = 'ELM' AND iv30 = 0.6`);
    expect((await read('iv30', 2)).elm).toEqual([0.5, 0.7]);
    await database.delete(measures).where(sql`symbol = 'ELM' AND iv30 = 0.7`);
    expect((await read('iv30', 2)).elm).toEqual([NaN, 0.5]);
    await database.insert(dividends).values({ symbol: 'OAK', exDate: '2031-03-13', kind: 'split', amount: 2 });
    expect((await read('before')).oak).toEqual([52]);
    await database.delete(dividends);
    expect((await read('before')).oak).toEqual([104]);
    await database.insert(underlyings).values({
      ...{ symbol: 'YEW', name: 'Yew', kind: 'index', multiplier: 1, exercise: 'european' },
    });
    expect((await held.read([], 1)).underlyings.map(({ symbol }) => symbol)).toEqual(['ELM', 'OAK', 'YEW']);
    await database.delete(underlyings).where(sql`symbol = 'YEW'`);
    await database.insert(events).values([
      { symbol: 'OAK', start: new Date('2031-03-14T16:45:00Z'), title: 'results' },
      { symbol: '', start: new Date('2031-03-20T16:45:00Z'), title: 'decision' },
    ]);
    expect(await read('event')).toEqual({ oak: [1], elm: [8] });
  });
  it('know what a transaction writes that began before others ended, once it has ended itself', async () => {
    const { database } = own;
    const slow = await database.$client.connect();
    await slow.query('BEGIN');
    await slow.query(`INSERT INTO measures (symbol, asof, iv30, contracts, usable, method)
      VALUES ('ELM', '2031-03-13T16:45:00Z', 0.9, 1, 1, 1)`);
    expect((await read('iv30')).elm).toEqual([0.5]);
    await database
      .update(measures)
      .set({ iv30: 0.23 })
      .where(sql`symbol = 'OAK' AND iv30 = 0.22`);
    expect((await read('iv30', 2)).oak).toEqual([0.23, NaN]);
    expect((await read('iv30')).elm).toEqual([0.5]);
    await slow.query('COMMIT');
    slow.release();
    expect((await read('iv30')).elm).toEqual([0.9]);
  });
  it('go back further once something needs it', async () => {
    await own.database.insert(measures).values(measured('ELM', '2029-03-12T16:45:00Z', 0.1));
    await own.database.insert(snapshots).values(
      ['OAK', 'ELM'].map((symbol) => ({
        ...{ symbol, asof: new Date('2031-03-13T16:45:00Z'), contracts: 1, digest: '', importId: 1 },
      })),
    );
    held = new HeldColumns(own.database);
    expect((await read('iv30', 3)).elm[0]).toBeNaN();
    const [first] = (await read('iv30', 600)).elm.filter(Number.isFinite);
    expect(first).toBe(0.1);
  });
  it('read nothing again of what has not changed', async () => {
    const { database } = own;
    const before = await read('iv30', 3);
    // Behind the back of the triggers.
    await database.execute(sql`ALTER TABLE measures DISABLE TRIGGER USER`);
    await database.update(measures).set({ iv30: 0.99 });
    await database.execute(sql`ALTER TABLE measures ENABLE TRIGGER USER`);
    expect(await read('iv30', 3)).toEqual(before);
    await database
      .update(measures)
      .set({ iv30: 0.98 })
      .where(sql`symbol = 'OAK'`);
    expect((await read('iv30')).oak).toEqual([0.98]);
  });
});

describe('rows of doubles', () => {
  it('come as columns, over the borders of what is sent at once', async () => {
    const [n, half, none] = await inTransaction(own.database, (session) =>
      readColumns(
        session,
        'SELECT n::float8, n::float8 / 2, CASE WHEN n % 3 = 0 THEN n::float8 END FROM generate_series(1, 30000) AS n ORDER BY n',
        3,
      ),
    );
    expect(n).toHaveLength(30000);
    expect(n!.every((value, i) => value === i + 1 && half![i] === value / 2)).toBe(true);
    expect(none!.every((value, i) => ((i + 1) % 3 === 0 ? value === i + 1 : Number.isNaN(value)))).toBe(true);
    const empty = await inTransaction(own.database, (session) =>
      readColumns(session, 'SELECT 1::float8 WHERE false', 1),
    );
    expect(empty).toEqual([new Float64Array()]);
    await expect(
      inTransaction(own.database, (session) => readColumns(session, 'SELECT none FROM nowhere', 1)),
    ).rejects.toThrow('nowhere');
  });
});
