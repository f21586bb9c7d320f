/** Writes the demo world, some files ahead of whoever takes them; null at its end. */
import { parentPort, workerData } from 'node:worker_threads';
import { writeDemo } from '@umwelt/demo';

const { folder, ahead, skipped } = workerData as { folder: string; ahead: number; skipped: string[] };
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
    await new Promise<void>((resolve) => {
      go = resolve;
    });
  }
}
parentPort?.postMessage(null);
