/**
 * `npm run worker`: works on the jobs of the database in DATABASE_URL until it is stopped. Any number of them may run,
 * on this machine or on others.
 */
import { checkNode, ensureNpmPackages } from './lib/packages.mjs';
import { fail, Stop } from './lib/phases.mjs';

async function main() {
  checkNode();
  const url = process.env.DATABASE_URL;
  if (!url) throw new Stop('DATABASE_URL is not set: say whose jobs are to be done, DATABASE_URL=… npm run worker');
  await ensureNpmPackages();
  const { ensureThreads } = await import('./lib/build.mjs');
  await ensureThreads();
  const { startWorkerThread } = await import('./lib/worker.mjs');
  const worker = await startWorkerThread(url);
  console.log('Working on the jobs of the database. Ctrl-C stops it.');
  for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM'])) {
    process.on(signal, () => void worker.stop().then(() => process.exit(0)));
  }
}

main().catch(fail);
