import { Worker } from 'node:worker_threads';
import { Stop } from './phases.mjs';

const STOP_MS = 5000;

/**
 * Starts a worker of the job queue in a thread of this process.
 *
 * @param {string} url connection string of the database
 * @returns {Promise<{ stop: () => Promise<void> }>}
 */
export async function startWorkerThread(url) {
  const thread = new Worker(new URL('./worker-thread.mjs', import.meta.url), { workerData: { url } });
  await new Promise((resolve, reject) => {
    thread.once('message', resolve);
    thread.once('error', (error) => reject(new Stop(`the worker did not start: ${error.message}`)));
  });
  thread.on('error', (error) => console.error(`the worker ended: ${error.stack ?? error.message}`));
  return {
    async stop() {
      const ended = new Promise((resolve) => thread.once('exit', resolve));
      thread.postMessage('stop');
      const timer = setTimeout(() => void thread.terminate(), STOP_MS);
      await ended;
      clearTimeout(timer);
    },
  };
}
