/**
 * `npm run rebuild -- [SYMBOL…]`: derives fits and measures again from the stored quotes, of all underlyings or of some,
 * in the database of the running application or, when none runs, in one started for the purpose.
 */
import { checkNode, ensureNpmPackages } from './lib/packages.mjs';
import { fail, phase } from './lib/phases.mjs';

async function main() {
  checkNode();
  await ensureNpmPackages();
  const symbols = process.argv.slice(2);
  const { withDatabase } = await import('./lib/application.mjs');
  await withDatabase(async (database, url, isRunning) => {
    const { ensureThreads } = await import('./lib/build.mjs');
    await ensureThreads();
    const { startWorkerThread } = await import('./lib/worker.mjs');
    const { followTask } = await import('./lib/data.ts');
    const { startTask } = await import('../web/src/lib/server/jobs/index.ts');
    const worker = isRunning ? null : await startWorkerThread(url);
    try {
      const task = await startTask(database, 'rebuild', symbols.length > 0 ? { symbols } : {});
      await phase('rebuild', (progress, say) => followTask(database, task.id, progress, say));
    } finally {
      await worker?.stop();
    }
  });
  process.exit(0);
}

main().catch(fail);
