import { DEMO_FILES, DEMO_VERSION, writeDemo } from '@umwelt/demo';
import { eq, like, sql } from 'drizzle-orm';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { tables, type Database } from '../db';
import { diskSource, importFile } from '../ingest';
import type { Jobs } from './queue';
import { runTask } from './tasks';

const { settings } = tables;
const ALL = 'demo';
const partOf = (symbol: string) => `${ALL} ${symbol}`;

/**
 * Whether the database holds this version of the demo: whole, or the underlyings that are wanted.
 *
 * @param wanted symbols; all when not given
 */
export async function isDemoHeld(database: Database, wanted?: readonly string[]): Promise<boolean> {
  const [held] = await database.select().from(settings).where(eq(settings.key, ALL));
  if (held?.value === String(DEMO_VERSION)) return true;
  if (!wanted) return false;
  const symbols = await demoSymbols(database);
  return wanted.every((symbol) => symbols.has(symbol));
}

/** The underlyings of this version of the demo that are complete. */
export async function demoSymbols(database: Database): Promise<Set<string>> {
  const rows = await database
    .select()
    .from(settings)
    .where(like(settings.key, `${ALL} %`));
  return new Set(
    rows.filter(({ value }) => value === String(DEMO_VERSION)).map(({ key }) => key.slice(ALL.length + 1)),
  );
}

async function remember(database: Database, key: string): Promise<void> {
  const row = { key, value: String(DEMO_VERSION), changed: Date.now() };
  await database.insert(settings).values(row).onConflictDoUpdate({ target: settings.key, set: row });
}

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
    const total = wanted ? wanted.length + OTHER_FILES : DEMO_FILES;
    let done = [...held].filter(isWanted).length;
    let rows = 0;
    try {
      for await (const { path, symbol } of writeDemo(folder, (name) => held.has(name) || !isWanted(name))) {
        const record = await importFile(database, diskSource(path));
        if (record.status !== 'done') throw new Error(`${record.file}: ${record.detail}`);
        rmSync(path);
        rows += record.rows;
        if (symbol !== null) {
          await remember(database, partOf(symbol));
          // Plans for many rows where there were none would be slow ones.
          if (done % ANALYZE_EVERY === 0) await database.execute(sql`ANALYZE snapshots, slices, fits, measures`);
        }
        await report(++done, total, symbol === null ? record.file : `${symbol} is complete`);
      }
      if (!wanted) await remember(database, ALL);
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
