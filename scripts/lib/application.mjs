import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { join, resolve } from 'node:path';
import { register } from 'tsx/esm/api';
import { ensurePostgres, ROOT } from './packages.mjs';
import { phase, Stop } from './phases.mjs';
import { commandLine, isAlive } from './processes.mjs';
import { startCluster } from './postgres.mjs';

// The parts that know the database are TypeScript of the application.
register();

/** The data folder: UMWELT_DATA_DIR, or .umwelt in the project. */
export function dataFolder() {
  const folder = resolve(process.env.UMWELT_DATA_DIR || join(ROOT, '.umwelt'));
  mkdirSync(folder, { recursive: true });
  return folder;
}

/** @param {string} folder */
const stateFile = (folder) => join(folder, 'running.json');

/**
 * The application that is running on a data folder, or null. What a killed one has left is not running.
 *
 * @param {string} folder
 * @returns {{ pid: number, url: string, databaseUrl: string } | null}
 */
export function runningApplication(folder) {
  if (!existsSync(stateFile(folder))) return null;
  try {
    const state = JSON.parse(readFileSync(stateFile(folder), 'utf8'));
    // A folder that was copied from another machine, or from before this one was started, tells of no process of today.
    if (state.boot !== bootOf()) return null;
    return isAlive(state.pid) && commandLine(state.pid).includes('node') ? state : null;
  } catch {
    return null;
  }
}

/** What tells this run of this machine from every other. */
function bootOf() {
  try {
    return readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim();
  } catch {
    return hostname();
  }
}

/** @param {string} folder @param {{ url: string, databaseUrl: string }} state */
export function noteRunning(folder, state) {
  writeFileSync(stateFile(folder), JSON.stringify({ pid: process.pid, boot: bootOf(), ...state }), { mode: 0o600 });
}

/** @param {string} folder */
export function noteStopped(folder) {
  rmSync(stateFile(folder), { force: true });
}

/**
 * The database of the application: the one of DATABASE_URL, or the project's own, created and started.
 *
 * @param {string} folder data folder
 * @returns {Promise<{ url: string, stop: () => Promise<void> }>}
 */
export async function openOwnDatabase(folder) {
  const given = process.env.DATABASE_URL;
  if (given) return { url: given, stop: async () => undefined };
  const programs = await ensurePostgres();
  const cluster = await phase('database', async (_, say) => {
    const started = await startCluster(programs, folder);
    say(`127.0.0.1:${started.port}, files in ${started.folder}`);
    return started;
  });
  // Whoever writes into it watches the room on its disk.
  process.env.UMWELT_DATABASE_FOLDER = cluster.folder;
  const { ensureDatabase } = await import('./data.ts');
  await ensureDatabase(cluster.url('postgres'), 'umwelt');
  return { url: cluster.url(), stop: cluster.stop };
}

/** Stops with a word when the data folder is in use. @param {string} folder */
export function refuseSecond(folder) {
  const other = runningApplication(folder);
  if (other) throw new Stop(`Umwelt is already running at ${other.url} (process ${other.pid}).`);
}

/**
 * Works with the database of the running application or, when none runs, with one started for the purpose.
 *
 * @param {(database: import('../../web/src/lib/server/db').Database, url: string, isRunning: boolean) => Promise<void>} work
 */
export async function withDatabase(work) {
  const folder = dataFolder();
  const running = process.env.DATABASE_URL ? null : runningApplication(folder);
  const own = running ? { url: running.databaseUrl, stop: async () => undefined } : await openOwnDatabase(folder);
  const { prepareDatabase } = await import('./data.ts');
  const database = await prepareDatabase(own.url);
  try {
    await work(database, own.url, running !== null);
  } finally {
    await database.$client.end();
    await own.stop();
  }
}
