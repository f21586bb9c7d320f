/**
 * `npm run backup -- FILE`: writes everything that the database holds into a file, while the application runs or not.
 */
import { existsSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { checkNode, ensureNpmPackages, ensurePostgres } from './lib/packages.mjs';
import { fail, phase, Stop } from './lib/phases.mjs';

async function main() {
  checkNode();
  const [given, ...others] = process.argv.slice(2);
  if (!given || others.length > 0) throw new Stop('Usage: npm run backup -- FILE');
  const path = resolve(process.env.INIT_CWD ?? process.cwd(), given);
  if (!existsSync(dirname(path))) throw new Stop(`There is no folder ${dirname(path)}.`);
  if (existsSync(path)) throw new Stop(`There is a file ${path} already.`);
  await ensureNpmPackages();
  const programs = await ensurePostgres();
  const { withDatabase } = await import('./lib/application.mjs');
  const { writeBackup } = await import('./lib/backup.mjs');
  await withDatabase(async (_, url) => {
    await phase('backup', async (_progress, say) => {
      const { rows, bytes } = await writeBackup(programs, url, path);
      say(`${rows} rows in ${(bytes / 1e6).toFixed(1)} MB`);
    });
  });
  process.exit(0);
}

main().catch(fail);
