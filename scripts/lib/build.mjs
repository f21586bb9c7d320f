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
  'package-lock.json',
];

/** @param {string} path @returns {string[]} */
function filesBelow(path) {
  if (!existsSync(path)) return [];
  if (!statSync(path).isDirectory()) return [path];
  return readdirSync(path)
    .sort()
    .flatMap((name) => filesBelow(join(path, name)));
}

/** Builds the web application, unless it stands built from the same sources. */
export async function ensureBuild() {
  const hash = createHash('sha1');
  for (const source of SOURCES) {
    for (const path of filesBelow(join(ROOT, source))) hash.update(path.slice(ROOT.length)).update(readFileSync(path));
  }
  const wanted = hash.digest('hex');
  const stamp = join(ROOT, 'web/build/.umwelt-sources');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  await phase('web application', async (_, say) => {
    await run('npx', ['vite', 'build'], { cwd: join(ROOT, 'web') });
    writeFileSync(stamp, wanted);
    say('built');
  });
}
