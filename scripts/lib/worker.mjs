import { setTimeout as sleep } from 'node:timers/promises';
import { Worker } from 'node:worker_threads';
import { register } from 'tsx/esm/api';
import { Stop } from './phases.mjs';

register();
const { threadProgram } = await import('../../web/src/lib/server/threads/index.ts');

const STOP_MS = 5000;
const REVIVE_MS = 1000;

/** A thread that works, once it does. @param {string} url @returns {Promise<Worker>} */
async function launch(url) {
  const { filename, argv } = threadProgram('jobs/worker');
  const thread = new Worker(filename, { argv, workerData: { url } });
  await new Promise((resolve, reject) => {
    thread.once('message', resolve);
    thread.once('error', reject);
    thread.once('exit', () => reject(new Stop('it ended at once')));
  });
  thread.on('error', (error) => console.error(`the worker ended: ${error.message}`));
  return thread;
}

/**
 * Starts a worker of the job queue in a thread of this process. A thread that ends on its own, since the database was gone
 * for a while, is started again.
 *
 * @param {string} url connection string of the database
 * @returns {Promise<{ stop: () => Promise<void> }>}
 */
export async function startWorkerThread(url) {
  let isStopping = false;
  let thread = await launch(url).catch((error) => {
    throw new Stop(`the worker did not start: ${error.message}`);
  });
  const revive = async () => {
    while (!isStopping) {
      await sleep(REVIVE_MS);
      const next = await launch(url).catch(() => null);
      if (!next) continue;
      thread = next;
      thread.once('exit', revive);
      return;
    }
  };
  thread.once('exit', revive);
  return {
    async stop() {
      isStopping = true;
      const ended = new Promise((resolve) => thread.once('exit', resolve));
      thread.postMessage('stop');
      // One that has ended already answers nothing.
      await Promise.race([ended, sleep(STOP_MS, undefined, { ref: false })]);
      await thread.terminate();
    },
  };
}
