import { DEMO_FILES, UNDERLYINGS, type Told } from '@umwelt/demo';
import { sql } from 'drizzle-orm';
import { mkdtempSync, rmSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Database } from '../db';
import { demoSymbols, rememberDemo } from '../demo-held';
import { RoomError } from '../room';
import { openPool } from '../threads';
import type { DemoResult, DemoStep, DemoTask } from './demo.thread';
import type { Jobs } from './queue';
import { runTask } from './tasks';

/** The underlyings that the application is of use with: they are made first. */
export const FIRST_SYMBOLS = UNDERLYINGS.slice(0, 3).map(({ symbol }) => symbol);

/** Threads that make the demo, and what each may take. */
const THREADS = Math.min(4, availableParallelism());
const MOST_MEGABYTES = 1000;
/** With the usual 48 a quarter of the time goes into collecting what deriving chains leaves behind. */
const YOUNG_MEGABYTES = 192;
const ANALYZE_EVERY = 8;
/** Files beside the chains. */
const OTHER_FILES = DEMO_FILES - UNDERLYINGS.length;

/**
 * Makes the demo world in files and imports them as any other files: an underlying a thread at a time. Taken up again it goes on
 * with the underlyings that are missing.
 */
export function workDemo(database: Database, { taskId }: Jobs['demo']): Promise<void> {
  return runTask(database, taskId, async ({ input }, report) => {
    const wanted = input.symbols as string[] | undefined;
    const symbols = UNDERLYINGS.map(({ symbol }) => symbol).filter((symbol) => wanted?.includes(symbol) ?? true);
    const folder = mkdtempSync(join(tmpdir(), 'umwelt-demo-'));
    const held = await demoSymbols(database);
    const pool = openPool('jobs/demo', THREADS, MOST_MEGABYTES, { isAwaited: true, youngMegabytes: YOUNG_MEGABYTES });
    const total = symbols.length + OTHER_FILES;
    let done = 0;
    let rows = 0;
    const run = async (step: DemoStep, files: number, words: string): Promise<Told | null> => {
      const isAwaited = step.step === 'tables' || (step.step === 'chain' && FIRST_SYMBOLS.includes(step.symbol));
      const task: DemoTask = { ...step, url: database.$client.options.connectionString!, folder, isAwaited };
      const result = (await pool.run(task)) as DemoResult;
      if ('noRoom' in result) throw new RoomError(result.noRoom);
      rows += result.rows;
      await report((done += files), total, words);
      // Plans for many rows where there were none would be slow ones.
      if (done % ANALYZE_EVERY === 0) await database.execute(sql`ANALYZE snapshots, slices, fits, measures`);
      return result.told;
    };
    try {
      await run({ step: 'tables' }, OTHER_FILES - 2, 'tables are complete');
      const told: (Told | null)[] = [];
      const left = symbols.values();
      const work = async () => {
        for (const symbol of left) {
          told[symbols.indexOf(symbol)] = await run(
            { step: 'chain', symbol, isHeld: held.has(symbol) },
            1,
            `${symbol} is complete`,
          );
        }
      };
      // One after the other in each thread, so that the first are there first.
      await Promise.all(Array.from({ length: THREADS }, work));
      await run({ step: 'rest', told: told.filter((one) => one !== null) }, 2, 'the tape and the book are complete');
      if (!wanted) await rememberDemo(database);
      await database.execute(sql`ANALYZE`);
      return `${rows} rows from ${total} files`;
    } finally {
      // What is under way is given up where something failed: its transaction is rolled back.
      await pool.destroy();
      rmSync(folder, { recursive: true, force: true });
    }
  });
}
