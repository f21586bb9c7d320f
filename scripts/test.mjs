/**
 * `npm test`: on a fresh machine installs what the tests need, starts a database of its own in a temporary
 * folder, builds, and runs format, lint, types, unit, API and browser tests. At the end stand the slowest of them, what
 * failed and why, and a line that counts them all.
 */
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { checkNode, ensureChromium, ensureNpmPackages, ensurePostgres, ROOT } from './lib/packages.mjs';
import { fail, phase, Stop } from './lib/phases.mjs';
import { startCluster } from './lib/postgres.mjs';
import { run, stopChildren } from './lib/processes.mjs';
import { outcomesOfPlaywright, outcomesOfVitest, summaryOf } from './lib/reports.mjs';
import { serveApart } from './lib/served.mjs';

/** What is to be undone, whatever happens. @type {(() => Promise<void> | void)[]} */
const cleanUp = [];
/** @type {import('./lib/reports.mjs').Outcome[]} */
const outcomes = [];
/** How many of the slowest tests are listed at the end. */
const MOST_SLOW = 12;

async function undo() {
  stopChildren();
  for (const step of cleanUp.splice(0).reverse()) await Promise.resolve(step()).catch(() => undefined);
}

/** What only reads the sources takes what is left of the machine: everything else waits for the demo. */
const BEHIND = ['-n', '10'];

/** A check that passes or fails as one. @param {string} name @param {string[]} command */
async function check(name, command) {
  const [program = '', ...args] = command;
  const begun = performance.now();
  let fault = null;
  try {
    await phase(name, () => run('nice', [...BEHIND, program, ...args], { cwd: ROOT }));
  } catch (error) {
    fault = error instanceof Stop ? error.message : String(error);
    console.error(fault);
  }
  outcomes.push({ name, ms: performance.now() - begun, fault });
}

/**
 * Runs tests that write a JSON report, and takes from it how they ended.
 *
 * @param {string} name
 * @param {string[]} command
 * @param {NodeJS.ProcessEnv} env
 * @param {string} report
 * @param {(report: any) => import('./lib/reports.mjs').Outcome[]} read
 */
async function suite(name, command, env, report, read) {
  const [program = '', ...args] = command;
  console.log(`\n${name}`);
  let isWell = true;
  await run(program, args, { cwd: ROOT, env: { ...process.env, ...env }, show: true }).catch(() => (isWell = false));
  const found = existsSync(report) ? read(JSON.parse(readFileSync(report, 'utf8'))) : [];
  outcomes.push(...found);
  // A runner that fails without a failed test has failed all the same.
  if (!isWell && found.every(({ fault }) => fault === null)) {
    outcomes.push({ name, ms: 0, fault: 'The runner failed; what it printed says why.' });
  }
}

/**
 * Runs tests of Vitest.
 *
 * @param {string} name
 * @param {string[]} which
 * @param {NodeJS.ProcessEnv} env
 * @param {string} report
 * @param {string[]} [before] a command that runs the command
 */
function vitest(name, which, env, report, before = []) {
  const command = [
    ...before,
    'npx',
    'vitest',
    'run',
    ...which,
    // One process for all files: loading every module again for each took longer than the tests. None keeps state.
    '--no-isolate',
    '--reporter=dot',
    '--reporter=json',
    `--outputFile.json=${report}`,
  ];
  return suite(name, command, env, report, outcomesOfVitest);
}

/** Serves a database until the tests are over. @param {string} databaseUrl */
async function serve(databaseUrl) {
  const { url, stop } = await serveApart(databaseUrl);
  cleanUp.push(stop);
  return url;
}

/** Copies of the demo for what writes: of the API, of its feed, of pages, and of the feed that these follow. */
const COPIES = /** @type {const} */ (['umwelt_api', 'umwelt_feed', 'umwelt_pages', 'umwelt_pages_feed']);

/** A cluster and a folder that are gone afterwards, with the demo imported, and a copy of it for whatever writes. */
async function prepare() {
  const programs = await ensurePostgres();
  const folder = mkdtempSync(join(tmpdir(), 'umwelt-test-'));
  cleanUp.push(() => rmSync(folder, { recursive: true, force: true }));
  // The database may run as another user, who must reach its folder.
  chmodSync(folder, 0o755);
  const cluster = await startCluster(programs, folder, { isThrowaway: true });
  cleanUp.push(async () => {
    await cluster.stop();
    rmSync(dirname(cluster.folder), { recursive: true, force: true });
  });
  await import('./lib/application.mjs');
  const { ensureDatabase, followDemo, prepareDatabase, queueMissing } = await import('./lib/data.ts');
  await ensureDatabase(cluster.url('postgres'), 'umwelt');
  const database = await prepareDatabase(cluster.url());
  const { startWorkerThread } = await import('./lib/worker.mjs');
  const worker = await startWorkerThread(cluster.url());
  const { demo } = await queueMissing(database);
  if (demo) await followDemo(database, demo.id, {});
  await worker.stop();
  await database.$client.end();
  for (const copy of COPIES) await ensureDatabase(cluster.url('postgres'), copy, 'umwelt');
  return { demoUrl: cluster.url(), urlOf: (/** @type {(typeof COPIES)[number]} */ copy) => cluster.url(copy) };
}

/** What needs neither the demo nor a server. @param {string} folder where reports are written */
async function lookAtSources(folder) {
  await check('format', ['npm', 'run', 'formatted']);
  await check('lint', ['npm', 'run', 'lint']);
  await check('types', ['npm', 'run', 'types']);
  await vitest('unit tests', ['core/src', 'demo/src', 'web/src'], {}, join(folder, 'unit.json'), ['nice', ...BEHIND]);
}

async function main() {
  checkNode();
  await ensureNpmPackages({ forTests: true });
  const chromium = await ensureChromium();
  const { ensureBuild, ensureThreads } = await import('./lib/build.mjs');
  const reports = mkdtempSync(join(tmpdir(), 'umwelt-reports-'));
  cleanUp.push(() => rmSync(reports, { recursive: true, force: true }));
  await ensureThreads();
  const building = ensureBuild();
  // Beside each other, so that neither core waits: the demo and what asks for it, and what only reads the sources. The
  // start of the application waits most of its time.
  const preparing = prepare();
  const lookingAtSources = building.then(() => lookAtSources(reports));
  const starting = building.then(() =>
    vitest('start of the application', ['scripts/'], {}, join(reports, 'start.json')),
  );
  const { demoUrl, urlOf } = await preparing;
  await building;
  const [apiUrl, feedUrl] = [urlOf('umwelt_api'), urlOf('umwelt_feed')];
  const [demo, api, feed] = [await serve(demoUrl), await serve(apiUrl), await serve(feedUrl)];
  const [pages, pagesFeed] = [await serve(urlOf('umwelt_pages')), await serve(urlOf('umwelt_pages_feed'))];
  const asking = vitest(
    'API tests',
    ['tests/api'],
    { API_URL: api, API_DATABASE_URL: apiUrl, FEED_URL: feed, FEED_DATABASE_URL: feedUrl },
    join(reports, 'api.json'),
  );
  const browserReport = join(reports, 'browser.json');
  const looking = suite(
    'browser tests',
    ['npx', 'playwright', 'test', '-c', 'tests/playwright.config.ts'],
    { E2E_URL: demo, E2E_DATA_URL: pages, E2E_FEED_URL: pagesFeed, E2E_REPORT: browserReport, CHROMIUM: chromium },
    browserReport,
    outcomesOfPlaywright,
  );
  await Promise.all([asking, looking]);
  await Promise.all([lookingAtSources, starting]);
  await undo();
  const failed = outcomes.filter(({ fault }) => fault !== null).length;
  console.log(`\n${summaryOf(outcomes, MOST_SLOW)}`);
  console.log(`\n${outcomes.length - failed} passed, ${failed} failed`);
  process.exit(failed > 0 ? 1 : 0);
}

for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM'])) {
  process.on(signal, () => void undo().then(() => process.exit(130)));
}

main().catch(async (error) => {
  await undo();
  fail(error);
});
