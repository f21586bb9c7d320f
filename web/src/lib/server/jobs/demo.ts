import { DEMO_FILES, UNDERLYINGS } from '@umwelt/demo';
import { sql } from 'drizzle-orm';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Database } from '../db';
import { demoSymbols, rememberDemo } from '../demo-held';
import { diskSource, importFile } from '../ingest';
import { demoFiles } from './demo-files';
import type { Jobs } from './queue';
import { runTask } from './tasks';

/**
 * Makes the demo world in files and imports them, one after the other, as any other files. Taken up again it goes on
 * with the underlyings that are missing.
 */
export function workDemo(database: Database, { taskId }: Jobs['demo']): Promise<void> {
  return runTask(database, taskId, async ({ input }, report) => {
    const wanted = input.symbols as string[] | undefined;
    const isWanted = (symbol: string) => wanted?.includes(symbol) ?? true;
    const folder = mkdtempSync(join(tmpdir(), 'umwelt-demo-'));
    const held = await demoSymbols(database);
    const skipped = UNDERLYINGS.map((spec) => spec.symbol).filter((name) => held.has(name) || !isWanted(name));
    const total = wanted ? wanted.length + OTHER_FILES : DEMO_FILES;
    let done = [...held].filter(isWanted).length;
    let rows = 0;
    try {
      for await (const { path, symbol } of demoFiles(folder, skipped)) {
        const record = await importFile(database, diskSource(path));
        if (record.status !== 'done') throw new Error(`${record.file}: ${record.detail}`);
        rmSync(path);
        rows += record.rows;
        if (symbol !== null) {
          await rememberDemo(database, symbol);
          // Plans for many rows where there were none would be slow ones.
          if (done % ANALYZE_EVERY === 0) await database.execute(sql`ANALYZE snapshots, slices, fits, measures`);
        }
        await report(++done, total, symbol === null ? record.file : `${symbol} is complete`);
      }
      if (!wanted) await rememberDemo(database);
      await database.execute(sql`ANALYZE`);
      return `${rows} rows from ${total} files`;
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });
}

const ANALYZE_EVERY = 8;
/** Files beside the chains. */
const OTHER_FILES = 6;
