/**
 * `npm run import -- [--accept-bad-rows] FILE…`: imports files of docs/formats.md, into the database of the running
 * application or, when none runs, into one started for the purpose.
 */
import { existsSync, statSync } from 'node:fs';
import { resolve } from 'node:path';
import { checkNode, ensureNpmPackages } from './lib/packages.mjs';
import { fail, phase, Stop } from './lib/phases.mjs';

const SHOWN_FAULTS = 20;

/** @param {import('../web/src/lib/server/ingest').ImportRecord} record */
function report(record) {
  const counts = Object.entries(record.counts).map(([name, number]) => `${number} ${COUNT_WORDS[name] ?? name}`);
  console.log(`  ${record.what ?? 'no known file'}, ${record.rows} rows: ${counts.join(', ') || record.detail}`);
  if (record.ignoredColumns.length > 0) console.log(`  columns kept aside: ${record.ignoredColumns.join(', ')}`);
  for (const { row, column, value, reason } of record.faults.slice(0, SHOWN_FAULTS)) {
    console.log(`  row ${row}, column ${column}: “${value}” ${reason}`);
  }
  const more = record.badRows - Math.min(record.faults.length, SHOWN_FAULTS);
  if (more > 0) console.log(`  … and ${more} more bad rows`);
  if (record.status === 'refused') {
    console.log('  Nothing of this file was imported. To import its good rows: add --accept-bad-rows');
  }
}

/** @type {Record<string, string>} */
const COUNT_WORDS = { leftOut: 'snapshots left out for a bad row', rebuilt: 'snapshots derived anew' };

async function main() {
  checkNode();
  const acceptBadRows = process.argv.includes('--accept-bad-rows');
  const from = process.env.INIT_CWD ?? process.cwd();
  const paths = process.argv
    .slice(2)
    .filter((argument) => !argument.startsWith('--'))
    .map((path) => resolve(from, path));
  if (paths.length === 0) throw new Stop('Usage: npm run import -- [--accept-bad-rows] FILE…');
  const missing = paths.find((path) => !existsSync(path));
  if (missing) throw new Stop(`There is no file ${missing}.`);
  await ensureNpmPackages();
  const { withDatabase } = await import('./lib/application.mjs');
  const { importPath, orderFiles } = await import('./lib/data.ts');
  let isAllDone = true;
  await withDatabase(async (database) => {
    for (const path of await orderFiles(database, paths)) {
      const record = await phase(path, (progress) =>
        importPath(database, path, {
          acceptBadRows,
          onProgress: (rows, bytes) => progress(bytes, statSync(path).size, `${rows} rows`),
        }),
      );
      report(record);
      isAllDone &&= record.status === 'done';
    }
  });
  process.exit(isAllDone ? 0 : 1);
}

main().catch(fail);
