import { fork } from 'node:child_process';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { ROOT } from './packages.mjs';
import { Stop } from './phases.mjs';

/** The pause before a server that has ended is started again: doubled each time, forgotten once it has run for long. */
const FIRST_PAUSE_MS = 250;
const LONGEST_PAUSE_MS = 30_000;
const LONG_MS = 60_000;
const STOP_MS = 5000;

/**
 * Serves the built application in a process of its own, which is restarted whenever it ends on its own: what breaks it
 * ends neither the database nor the jobs. It ends with this process.
 *
 * @param {string} host
 * @param {number} port
 * @param {string} databaseUrl
 * @returns {Promise<{ stop: () => Promise<void> }>} once it listens
 */
export async function keepServing(host, port, databaseUrl) {
  const env = { ...process.env, HOST: host, PORT: String(port), DATABASE_URL: databaseUrl, UMWELT_WORKER: 'off' };
  let isStopping = false;
  /** @type {import('node:child_process').ChildProcess} */
  let child;
  const launch = () => {
    child = fork(join(ROOT, 'scripts/serve.mjs'), { env });
    const ended = new Promise((resolve) => child.once('exit', (code, signal) => resolve(signal ?? code)));
    const listens = new Promise((resolve) => child.once('message', () => resolve(null)));
    return { ended, listens };
  };
  const first = launch();
  const failed = await Promise.race([first.listens, first.ended]);
  if (failed !== null) throw new Stop('the server did not start');
  const keep = async (/** @type {Promise<unknown>} */ ended) => {
    let pause = FIRST_PAUSE_MS;
    let begun = performance.now();
    for (;;) {
      const how = await ended;
      if (isStopping) return;
      if (performance.now() - begun > LONG_MS) pause = FIRST_PAUSE_MS;
      console.error(`The server has ended (${how}); it is started again.`);
      await sleep(pause);
      if (isStopping) return;
      pause = Math.min(2 * pause, LONGEST_PAUSE_MS);
      begun = performance.now();
      ended = launch().ended;
    }
  };
  const kept = keep(first.ended);
  return {
    async stop() {
      isStopping = true;
      child.kill('SIGTERM');
      const late = setTimeout(() => child.kill('SIGKILL'), STOP_MS);
      await kept;
      clearTimeout(late);
    },
  };
}
