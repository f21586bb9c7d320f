import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { tables } from '../../web/src/lib/server/db';
import { makeBook, turnBook } from '../../web/src/lib/server/book';
import { makeDatabase, type OwnDatabase } from './own-database';

const DRILL = fileURLToPath(new URL('./book-drill.ts', import.meta.url));
/** After how many milliseconds of work each is killed: between any two statements. */
const KILLED_AFTER = [3, 14, 33, 60, 90];

describe('kill -9 between any two steps of booking', () => {
  let own: OwnDatabase;
  let book: number;

  beforeAll(async () => {
    own = await makeDatabase('book');
    await own.database.insert(tables.underlyings).values({
      ...{ symbol: 'DRILL', name: 'Drill', kind: 'equity', currency: 'ICR', multiplier: 100, exercise: 'american' },
      calendar: 'MRX',
    });
    const given = { name: 'Drilled', currency: 'ICR', note: '', limits: [] };
    book = (await makeBook(own.database, given)).id;
  });
  afterAll(() => own.remove());

  const killedAfter = (milliseconds: number) =>
    new Promise<void>((resolve, reject) => {
      const env = { ...process.env, DATABASE_URL: own.url, BOOK: String(book) };
      const child = spawn(process.execPath, ['--import', 'tsx', DRILL], { env, stdio: ['ignore', 'pipe', 'inherit'] });
      child.stdout.once('data', () => setTimeout(() => child.kill('SIGKILL'), milliseconds));
      child.once('exit', (code) => (code === null ? resolve() : reject(new Error(`it ended by itself: ${code}`))));
    });

  /** Of all positions how many fills each has, and how many of them the journal knows. */
  async function found() {
    const { rows } = await own.database.execute<{
      fills: number;
      positions: number;
      halves: number;
      journaled: number;
    }>(sql`
      SELECT (SELECT count(*)::int FROM fills) AS fills, (SELECT count(*)::int FROM book_positions) AS positions,
        (SELECT count(*)::int FROM (SELECT position_id FROM fills GROUP BY 1 HAVING count(*) NOT IN (2, 4)) odd) AS halves,
        (SELECT coalesce(sum((SELECT count(*) FROM jsonb_array_elements(rows) image WHERE image ->> 'table' = 'fills')), 0)::int
          FROM book_changes WHERE NOT is_undone) AS journaled`);
    return rows[0]!;
  }

  it('loses and doubles nothing: each change is there with its line in the journal, or not at all', async () => {
    for (const milliseconds of KILLED_AFTER) {
      await killedAfter(milliseconds);
      // What the killed one had begun is rolled back as soon as the server sees that it is gone.
      await expect.poll(async () => (await found()).halves, { interval: 20 }).toBe(0);
      const { fills, positions, journaled } = await found();
      expect(journaled).toBe(fills);
      expect(positions * 2).toBeLessThanOrEqual(fills);
    }
    expect((await found()).fills).toBeGreaterThan(16);
  });
  it('and all of it can be taken back, one change after the other', async () => {
    while ((await found()).positions > 0) await turnBook(own.database, book, 'undo');
    expect(await found()).toMatchObject({ fills: 0, journaled: 0 });
    await turnBook(own.database, book, 'redo');
    expect((await found()).fills).toBe(2);
  });
});
