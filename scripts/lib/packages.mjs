import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { phase, Stop } from './phases.mjs';
import { run, succeeds } from './processes.mjs';

export const ROOT = join(import.meta.dirname, '..', '..');
const OLDEST_NODE = [20, 19];

/** Stops with a word about what to install when Node.js is too old. */
export function checkNode() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
  const [oldestMajor = 0, oldestMinor = 0] = OLDEST_NODE;
  if (major < oldestMajor || (major === oldestMajor && minor < oldestMinor)) {
    throw new Stop(`Umwelt needs Node.js ${OLDEST_NODE.join('.')} or newer; this is ${process.versions.node}.`);
  }
}

/** What the application itself consists of; the packages of the root are for tests and tools alone. */
const WORKSPACES = ['core', 'demo', 'web'].flatMap((name) => ['-w', name]);

/**
 * Installs the npm packages when the lock file is not the one they were installed from.
 *
 * @param {{ forTests?: boolean }} [options] `forTests`: those of tests and tools too
 */
export async function ensureNpmPackages({ forTests = false } = {}) {
  const stamp = join(ROOT, 'node_modules', '.umwelt-lock');
  const lock = createHash('sha1')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  const whole = `${lock} with tests`;
  const installed = existsSync(stamp) ? readFileSync(stamp, 'utf8') : '';
  if (installed === whole || (installed === lock && !forTests)) return;
  await phase('npm packages', async () => {
    await run('npm', ['ci', '--no-audit', '--no-fund', ...(forTests ? [] : WORKSPACES)], { cwd: ROOT });
    writeFileSync(stamp, forTests ? whole : lock);
  });
}

/**
 * Installs packages of Debian, or stops with the command that does.
 *
 * @param {string[]} names
 * @param {string} why
 */
export async function installDebian(names, why) {
  const isRoot = process.getuid?.() === 0;
  const prefix = isRoot ? [] : ['sudo', '-n'];
  const command = `apt-get install -y --no-install-recommends ${names.join(' ')}`;
  if (!succeeds('apt-get', ['--version'])) {
    throw new Stop(
      `${why} is missing, and this is no Debian system. Install it (there: ${command}), then start again.`,
    );
  }
  if (!isRoot && !succeeds('sudo', ['-n', 'true'])) {
    throw new Stop(
      `${why} is missing, and this user may not install packages. Run this once, then start again:\n\n  sudo ${command}\n`,
    );
  }
  await phase(why, async (_, say) => {
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    const apt = (/** @type {string[]} */ ...args) => {
      const [first = 'apt-get', ...rest] = [...prefix, 'apt-get', ...args];
      return run(first, rest, { env });
    };
    await apt('update');
    await apt('install', '-y', '--no-install-recommends', ...names);
    say(`installed ${names.join(' ')} from Debian's packages`);
  });
}

/** The folder of the newest PostgreSQL server programs, or null. */
export function findPostgres() {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base) ? readdirSync(base).sort((a, b) => Number(b) - Number(a)) : [];
  const folders = [...versions.map((version) => join(base, version, 'bin')), ...(process.env.PATH ?? '').split(':')];
  return folders.find((folder) => ['initdb', 'postgres'].every((name) => existsSync(join(folder, name)))) ?? null;
}

/** The folder of the PostgreSQL server programs, installed where they are missing. */
export async function ensurePostgres() {
  const found = findPostgres();
  if (found) return found;
  await installDebian(['postgresql'], 'PostgreSQL');
  const installed = findPostgres();
  if (!installed)
    throw new Stop('PostgreSQL was installed, but its programs are not where they are expected (/usr/lib/postgresql).');
  return installed;
}

/** The path of Debian's Chromium, installed where it is missing. Without its windows it opens a page in two thirds of the time. */
export async function ensureChromium() {
  const shell = '/usr/bin/chromium-headless-shell';
  if (!existsSync(shell)) await installDebian(['chromium-headless-shell'], 'Chromium');
  return shell;
}
