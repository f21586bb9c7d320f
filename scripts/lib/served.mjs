import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from './packages.mjs';
import { Stop } from './phases.mjs';
import { freePort } from './postgres.mjs';

/**
 * Serves the built application in a process of its own, on a free port.
 *
 * @param {string} databaseUrl
 * @param {NodeJS.ProcessEnv} [more]
 * @returns {Promise<{ url: string, pid: number | undefined, stop: () => void }>}
 */
export async function serveApart(databaseUrl, more = {}) {
  const port = await freePort();
  const env = { ...process.env, DATABASE_URL: databaseUrl, PORT: String(port), HOST: '127.0.0.1', ...more };
  const child = spawn(process.execPath, [join(ROOT, 'scripts/serve.mjs')], {
    env,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise((resolve, reject) => {
    child.stdout.once('data', resolve);
    child.once('exit', () => reject(new Stop('the server did not start')));
  });
  return { url: `http://127.0.0.1:${port}`, pid: child.pid, stop: () => void child.kill('SIGTERM') };
}
