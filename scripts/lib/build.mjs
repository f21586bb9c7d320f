import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './packages.mjs';
import { phase } from './phases.mjs';
import { run } from './processes.mjs';

const SOURCES = [
  'core/src',
  'demo/src',
  'web/src',
  'web/static',
  'web/svelte.config.js',
  'web/vite.config.ts',
  'web/vite.threads.config.ts',
  'package-lock.json',
];

/** Where the bundled programs of threads lie: the variable tells whoever starts threads. */
const THREADS = join(ROOT, 'web/build-threads');

/** @param {string} path @returns {string[]} */
function filesBelow(path) {
  if (!existsSync(path)) return [];
  if (!statSync(path).isDirectory()) return [path];
  return readdirSync(path)
    .sort()
    .flatMap((name) => filesBelow(join(path, name)));
}

function sourcesNow() {
  const hash = createHash('sha1');
  for (const source of SOURCES) {
    for (const path of filesBelow(join(ROOT, source))) hash.update(path.slice(ROOT.length)).update(readFileSync(path));
  }
  return hash.digest('hex');
}

/**
 * Builds something in a folder, unless it stands built from the same sources.
 *
 * @param {string} name
 * @param {string} folder
 * @param {string[][]} commands
 */
async function ensureBuilt(name, folder, commands) {
  const wanted = sourcesNow();
  const stamp = join(folder, '.umwelt-sources');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  await phase(name, async (_, say) => {
    for (const args of commands) await run('npx', args, { cwd: join(ROOT, 'web') });
    writeFileSync(stamp, wanted);
    say('built');
  });
}

/** Builds the web application, unless it stands built from the same sources. */
export function ensureBuild() {
  return ensureBuilt('web application', join(ROOT, 'web/build'), [['vite', 'build']]);
}

/** Bundles the programs of threads, unless they are; threads that are started from now on run from there. */
export async function ensureThreads() {
  await ensureBuilt('programs of threads', THREADS, [
    // Writes the settings of TypeScript that those of the folder extend.
    ['svelte-kit', 'sync'],
    ['vite', 'build', '-c', 'vite.threads.config.ts'],
  ]);
  process.env.UMWELT_THREADS = THREADS;
}

/** What serves a build runs its threads from where they were bundled with it. */
export function useThreads() {
  process.env.UMWELT_THREADS ??= THREADS;
}
