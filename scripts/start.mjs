/**
 * `npm start`: from a fresh clone to the application on loopback. Installs what is missing, starts the
 * database, migrates it, makes and imports the demo data, builds and serves. `--dev` serves from the sources.
 */
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { checkNode, ensureNpmPackages, ROOT } from './lib/packages.mjs';
import { isLoopback, tokenFor } from './lib/gate.mjs';
import { fail, Stop } from './lib/phases.mjs';
import { stopChildren } from './lib/processes.mjs';
import { showProgress } from './lib/progress.mjs';

const started = performance.now();
const isDev = process.argv.includes('--dev');
/** What has been started, to be stopped in the opposite order. @type {(() => Promise<void> | void)[]} */
const opened = [];
let isStopping = false;

/** @param {number} code */
async function stop(code) {
  if (isStopping) return;
  isStopping = true;
  stopChildren();
  for (const close of opened.reverse()) await Promise.resolve(close()).catch(() => undefined);
  process.exit(code);
}

for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM', 'SIGHUP'])) {
  process.on(signal, () => {
    if (!isStopping) console.log('\nStopping …');
    void stop(0);
  });
}

// What nobody has thought of must not leave the database behind.
for (const event of /** @type {const} */ (['uncaughtException', 'unhandledRejection'])) {
  process.on(event, (error) => {
    console.error(error);
    void stop(1);
  });
}

/** @param {string} host @param {number} port @param {string} url */
async function serve(host, port, url) {
  if (!isDev) {
    const { keepServing } = await import('./lib/server-process.mjs');
    opened.push((await keepServing(host, port, url)).stop);
    return;
  }
  process.env.DATABASE_URL = url;
  const web = join(ROOT, 'web');
  // Vite belongs to the web workspace, where it may lie in a folder of its own.
  const vite = createRequire(join(web, 'package.json')).resolve('vite');
  const { createServer } = await import(pathToFileURL(vite).href);
  process.chdir(web);
  const server = await createServer({ server: { host, port, strictPort: true } });
  await server.listen();
  opened.push(() => server.close());
}

async function main() {
  checkNode();
  const host = process.env.HOST || '127.0.0.1';
  const port = Number(process.env.PORT || 4890);
  tokenFor(host, process.env.UMWELT_TOKEN);
  // From the first second there is somebody who says how far it is, where the application will be.
  const progress = await showProgress(host, port);
  if (progress) opened.push(progress.stop);
  await ensureNpmPackages();
  const { dataFolder, noteRunning, noteStopped, openOwnDatabase, refuseSecond } = await import('./lib/application.mjs');
  if (isDev && !isLoopback(host)) throw new Stop('From its sources Umwelt is served to this machine alone.');
  const folder = dataFolder();
  refuseSecond(folder);
  const address = `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
  const own = await openOwnDatabase(folder);
  opened.push(own.stop);
  noteRunning(folder, { url: address, databaseUrl: own.url });
  opened.push(() => noteStopped(folder));
  const { followDemo, prepareDatabase, queueMissing } = await import('./lib/data.ts');
  const database = await prepareDatabase(own.url);
  opened.push(() => database.$client.end());
  const { ensureBuild, ensureThreads } = await import('./lib/build.mjs');
  if (!isDev) await ensureThreads();
  const { startWorkerThread } = await import('./lib/worker.mjs');
  opened.push((await startWorkerThread(own.url)).stop);
  const { demo } = await queueMissing(database);
  // Beside each other: neither the build nor the first data can use both cores.
  const building = isDev ? null : ensureBuild();
  if (demo) await followDemo(database, demo.id, { isFirstEnough: true });
  await building;
  await progress?.stop();
  await serve(host, port, own.url);
  console.log(
    `\nUmwelt is ready at ${address} after ${((performance.now() - started) / 1000).toFixed(1)} s. Ctrl-C stops it.`,
  );
  // The rest of the demo comes in while the application is used.
  if (demo) await followDemo(database, demo.id, {});
}

main().catch(async (error) => {
  if (isStopping) return;
  isStopping = true;
  for (const close of opened.reverse()) await Promise.resolve(close()).catch(() => undefined);
  fail(error);
});
