import { METHOD_VERSION } from '@umwelt/core';
import { DEMO_VERSION, writeDemo } from '@umwelt/demo';
import { lt, eq, sql } from 'drizzle-orm';
import { closeSync, openSync, readSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import pg from 'pg';
import { inTransaction, migrateDatabase, openDatabase, tables, type Database } from '../../web/src/lib/server/db';
import {
  diskSource,
  FILE_KINDS,
  importFile,
  matchHeader,
  rebuildDerived,
  type ImportRecord,
} from '../../web/src/lib/server/ingest';
import { ROOT } from './packages.mjs';
import { phase, Stop } from './phases.mjs';

/** Creates a database where it is missing. */
export async function ensureDatabase(adminUrl: string, name: string, template = 'template1'): Promise<void> {
  const client = new pg.Client({ connectionString: adminUrl });
  await client.connect();
  try {
    const { rowCount } = await client.query('SELECT 1 FROM pg_database WHERE datname = $1', [name]);
    if (rowCount === 0) await client.query(`CREATE DATABASE "${name}" TEMPLATE "${template}"`);
  } finally {
    await client.end();
  }
}

/** Migrates a database, closes what a killed process has left, and derives anew what an older method made. */
export async function prepareDatabase(url: string): Promise<Database> {
  const database = openDatabase(url);
  await phase('tables', async () => {
    await migrateDatabase(database, join(ROOT, 'web/drizzle'));
  });
  const outdated = await database
    .selectDistinct({ symbol: tables.measures.symbol })
    .from(tables.measures)
    .where(lt(tables.measures.method, METHOD_VERSION));
  if (outdated.length > 0) {
    await phase('fits', async (progress, say) => {
      const rebuilt = await inTransaction(database, (session) =>
        rebuildDerived(
          session,
          outdated.map((row) => row.symbol),
          progress,
        ),
      );
      say(`${rebuilt} snapshots derived anew by the present method`);
    });
  }
  return database;
}

/**
 * Makes and imports the demo data, unless the database holds this version of it.
 *
 * @returns the files that were made; none when nothing had to be
 */
export async function ensureDemo(database: Database, dataFolder: string): Promise<string[]> {
  const { settings } = tables;
  const [held] = await database.select().from(settings).where(eq(settings.key, 'demo'));
  if (held?.value === String(DEMO_VERSION)) return [];
  const folder = join(dataFolder, 'demo');
  const files = await phase('demo data', async (progress, say): Promise<string[]> => {
    const written = await writeDemo(folder, progress);
    say(`made in ${folder}`);
    return written;
  });
  await phase('demo import', async (progress, say) => {
    const sizes = files.map((file) => statSync(file).size);
    const total = sizes.reduce((sum, size) => sum + size);
    let rows = 0;
    let bytes = 0;
    for (const [i, file] of files.entries()) {
      const onProgress = (_: number, read: number) => progress(bytes + read, total, basename(file));
      const record = await importPath(database, file, { onProgress });
      if (record.status !== 'done') throw new Stop(`${file}: ${record.detail}`);
      rows += record.rows;
      bytes += sizes[i]!;
      progress(bytes, total, basename(file));
    }
    await database
      .insert(settings)
      .values({ key: 'demo', value: String(DEMO_VERSION), changed: Date.now() })
      .onConflictDoUpdate({ target: settings.key, set: { value: String(DEMO_VERSION), changed: Date.now() } });
    await database.execute(sql`ANALYZE`);
    say(`${rows} rows from ${files.length} files`);
  });
  return files;
}

/** Imports a file of the disk. `onProgress` is told how many rows and bytes have been read. */
export function importPath(
  database: Database,
  path: string,
  options: { acceptBadRows?: boolean; onProgress?: (rows: number, bytes: number) => void } = {},
): Promise<ImportRecord> {
  return importFile(database, diskSource(path), options);
}

/** Sorts files so that what others hang on comes first: underlyings, rates, dividends, events, bars, chains. */
export function orderFiles(paths: readonly string[]): string[] {
  const ranked = paths.map((path) => ({ path, rank: rankOf(path) }));
  return ranked.sort((a, b) => a.rank - b.rank).map(({ path }) => path);
}

function rankOf(path: string): number {
  const file = openSync(path, 'r');
  const buffer = Buffer.alloc(4096);
  const length = readSync(file, buffer);
  closeSync(file);
  const header = buffer.toString('utf8', 0, length).split(/\r?\n/)[0] ?? '';
  try {
    return FILE_KINDS.indexOf(matchHeader(header.split(',').map((cell) => cell.replace(/^"|"$/g, ''))).kind);
  } catch {
    // The import itself says what is wrong with the header.
    return FILE_KINDS.length;
  }
}
