/** Writes the demo world, some files ahead of whoever takes them; null at its end. */
import { parentPort, workerData } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

register();
const { writeDemo } = await import('@umwelt/demo');
const { folder, ahead, skipped } = workerData;
const isSkipped = new Set(skipped);
let waiting = 0;
let go = () => {};
parentPort?.on('message', () => {
  waiting--;
  go();
});
for await (const file of writeDemo(folder, (name) => isSkipped.has(name))) {
  parentPort?.postMessage(file);
  if (++waiting > ahead) {
    await new Promise((resolve) => {
      go = () => resolve(undefined);
    });
  }
}
parentPort?.postMessage(null);
