/** A worker of the job queue in a thread of its own, so that its work never holds up an answer of the server. */
import { parentPort, workerData } from 'node:worker_threads';
import { startWorker } from './worker';

const worker = await startWorker((workerData as { url: string }).url);
parentPort?.on('message', () => {
  void worker.stop().then(() => process.exit(0));
});
parentPort?.postMessage('started');
