/**
 * Serves the built application alone, on HOST and PORT with DATABASE_URL: for tests, and for servers of one's own.
 * With UMWELT_WORKER=off its jobs are left to `npm run worker`.
 */
import { useThreads } from './lib/build.mjs';
import { fail, Stop } from './lib/phases.mjs';
import { serveBuild } from './lib/serve.mjs';

/** @param {string} url */
async function startWorker(url) {
  const { startWorkerThread } = await import('./lib/worker.mjs');
  return startWorkerThread(url);
}

async function main() {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Stop('DATABASE_URL is not set.');
  const port = Number(process.env.PORT || 4890);
  useThreads();
  const worker = process.env.UMWELT_WORKER === 'off' ? null : await startWorker(url);
  const server = await serveBuild(process.env.HOST || '127.0.0.1', port, url);
  for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM'])) {
    process.on(signal, () => void Promise.all([server.stop(), worker?.stop()]).then(() => process.exit(0)));
  }
  console.log(`listening on ${port}`);
  process.send?.('listening');
  // Whoever keeps this server going is gone: it would serve without a database.
  process.once('disconnect', () => process.exit(0));
}

main().catch(fail);
