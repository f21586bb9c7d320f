/** A worker of the job queue in a thread of its own, so that its work never holds up an answer of the server. */
import { parentPort, workerData } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

register();
const { startWorker } = await import('../../web/src/lib/server/jobs/index.ts');
const worker = await startWorker(workerData.url);
parentPort?.on('message', async () => {
  await worker.stop();
  process.exit(0);
});
parentPort?.postMessage('started');
