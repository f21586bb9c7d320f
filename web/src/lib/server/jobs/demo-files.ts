import type { DemoFile } from '@umwelt/demo';
import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { threadProgram } from '../threads';

/** Files written ahead: enough that neither side waits for the other, and few on the disk. */
const AHEAD = 2;

/**
 * Writes the demo world in a thread of its own, some files ahead of whoever imports them.
 *
 * @param skipped underlyings whose chains are not wanted
 */
export async function* demoFiles(folder: string, skipped: readonly string[]): AsyncGenerator<DemoFile> {
  const { filename, argv } = threadProgram('jobs/demo');
  const thread = new Worker(filename, { argv, workerData: { folder, skipped, ahead: AHEAD } });
  const made: (DemoFile | null)[] = [];
  let failure: Error | null = null;
  thread.on('message', (file: DemoFile | null) => made.push(file));
  thread.on('error', (error) => (failure = error));
  try {
    for (;;) {
      if (failure) throw failure as Error;
      const file = made.shift();
      if (file === null) return;
      if (file) {
        yield file;
        thread.postMessage('taken');
      } else {
        await Promise.race([once(thread, 'message'), once(thread, 'exit')]);
        if (made.length === 0 && thread.threadId === -1 && !failure)
          throw new Error('the demo was not written to its end');
      }
    }
  } finally {
    await thread.terminate();
  }
}
