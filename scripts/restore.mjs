/**
 * `npm run restore -- FILE`: puts a backup in the place of what the database holds, while the application runs or not. What was
 * there is kept as the database umwelt_replaced until the next time.
 */
import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { checkNode, ensureNpmPackages, ensurePostgres } from './lib/packages.mjs';
import { fail, phase, Stop } from './lib/phases.mjs';

async function main() {
  checkNode();
  const [given, ...others] = process.argv.slice(2);
  if (!given || others.length > 0) throw new Stop('Usage: npm run restore -- FILE');
  const path = resolve(process.env.INIT_CWD ?? process.cwd(), given);
  if (!existsSync(path)) throw new Stop(`There is no file ${path}.`);
  await ensureNpmPackages();
  const programs = await ensurePostgres();
  const { withDatabase } = await import('./lib/application.mjs');
  const { prepareDatabase } = await import('./lib/data.ts');
  const { restoreBackup } = await import('./lib/backup.mjs');
  await withDatabase(async (_, url) => {
    await phase('restore', async (_progress, say) => {
      const { rows, made, replaced } = await restoreBackup(programs, url, path, async (fresh) => {
        await (await prepareDatabase(fresh)).$client.end();
      });
      say(`${rows} rows of ${made}; what was there is the database ${replaced} now`);
    });
  });
  process.exit(0);
}

main().catch(fail);
