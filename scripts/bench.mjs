/**
 * `npm run bench`: how fast imports and screens are, on a database and a server of its own. One JSON line each.
 * `npm run bench -- import` or `-- screen` runs one of the two.
 */
import { chmodSync, createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { checkNode, ensureChromium, ensureNpmPackages, ensurePostgres } from './lib/packages.mjs';
import { fail } from './lib/phases.mjs';
import { freePort, startCluster } from './lib/postgres.mjs';

const wanted = process.argv.slice(2);
const runs = (/** @type {string} */ name) => wanted.length === 0 || wanted.includes(name);
const ROUNDS = 5;
const STEPS = 24;

/** @param {string} name @param {Record<string, number | string>} values */
const report = (name, values) => console.log(JSON.stringify({ name, ...values }));

/** @param {number[]} values */
function spread(values) {
  const sorted = values.toSorted((a, b) => a - b);
  const round = (/** @type {number} */ value) => Math.round(value * 10) / 10;
  return {
    median: round(sorted[sorted.length >> 1] ?? NaN),
    p95: round(sorted[Math.floor(sorted.length * 0.95)] ?? NaN),
    max: round(sorted.at(-1) ?? NaN),
  };
}

const ROWS = 1_000_000;
const SYMBOLS = 50;
const EXPIRIES = 20;
const STRIKES = 50;

/** A chain file of a million rows: 10 sessions of 50 underlyings, each with 20 expiries of 50 strikes. */
async function largeChain(/** @type {string} */ path) {
  const { priceContract } = await import('@umwelt/core');
  const out = createWriteStream(path);
  out.write('asof,symbol,expiry,strike,side,bid,ask,volume,open_interest,underlying_price\n');
  const day = (/** @type {number} */ n) => new Date(Date.UTC(2040, 0, 2) + n * 86_400_000).toISOString().slice(0, 10);
  let written = 0;
  for (let session = 0; written < ROWS; session++) {
    for (let s = 0; s < SYMBOLS; s++) {
      const spot = 40 + 7 * s + session;
      let text = '';
      for (let e = 0; e < EXPIRIES; e++) {
        const days = e < 8 ? 11 + 7 * e : 11 + 28 * (e - 6);
        for (let i = 0; i < STRIKES; i++) {
          const strike = Math.round(spot * (0.6 + 0.016 * i) * 2) / 2 + i / 1000;
          for (const side of /** @type {const} */ (['call', 'put'])) {
            const x = Math.log(strike / spot);
            const vol = 0.2 + 0.01 * (s % 20) - 0.15 * x + 0.3 * x * x;
            const { price } = priceContract({
              model: 'black-76',
              side,
              forward: spot,
              strike,
              years: days / 365,
              rate: 0,
              vol,
            });
            const half = 0.01 + 0.01 * price;
            text += `${day(session)}T20:45:00Z,BENCH${s},${day(session + days)},${strike.toFixed(3)},${side === 'call' ? 'C' : 'P'},${Math.max(0, price - half).toFixed(2)},${(price + half).toFixed(2)},${written % 997},${written % 9973},${spot.toFixed(2)}\n`;
            written++;
          }
        }
      }
      if (!out.write(text)) await once(out, 'drain');
    }
  }
  out.end();
  await once(out, 'finish');
}

/**
 * @param {import('../web/src/lib/server/db').Database} database
 * @param {string} folder
 */
async function benchImport(database, folder) {
  const { diskSource, importFile, memorySource } = await import('../web/src/lib/server/ingest/index.ts');
  const path = join(folder, 'large.csv');
  await largeChain(path);
  const names = Array.from({ length: SYMBOLS }, (_, s) => `BENCH${s},Benchmark ${s},index,european`);
  await importFile(
    database,
    memorySource('names.csv', Buffer.from(['symbol,name,kind,exercise', ...names].join('\n'))),
  );
  for (let round = 0; round < ROUNDS; round++) {
    let peak = 0;
    const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 20);
    const started = performance.now();
    const cpu = process.cpuUsage();
    const record = await importFile(database, diskSource(path));
    const seconds = (performance.now() - started) / 1000;
    const used = process.cpuUsage(cpu);
    clearInterval(watch);
    if (record.status !== 'done') throw new Error(`the import ended ${record.status}: ${record.detail}`);
    report('import_with_vols_fits_measures', {
      quotes: record.rows,
      seconds: Number(seconds.toFixed(2)),
      quotesPerSecond: Math.round(record.rows / seconds),
      cpuSeconds: Number(((used.user + used.system) / 1e6).toFixed(2)),
      peakMegabytes: Math.round(peak / 1e6),
    });
    for (const table of ['slices', 'fits', 'measures', 'snapshots']) {
      await database.execute(`DELETE FROM ${table} WHERE asof > '2040-01-01'`);
    }
  }
}

/**
 * Milliseconds from a key to the frame after the element has changed.
 *
 * @param {import('@playwright/test').Page} page
 * @param {{ key: string, selector: string, attribute: string }} what
 */
function timeKey(page, what) {
  return page.evaluate(
    ({ key, selector, attribute }) =>
      new Promise((resolve) => {
        const { document, MutationObserver, KeyboardEvent, requestAnimationFrame, MessageChannel } =
          /** @type {any} */ (globalThis);
        const element = document.querySelector(selector);
        const started = performance.now();
        const observer = new MutationObserver(() => {
          observer.disconnect();
          // A message posted in a frame arrives once the frame has been painted.
          requestAnimationFrame(() => {
            const channel = new MessageChannel();
            channel.port1.onmessage = () => resolve(performance.now() - started);
            channel.port2.postMessage(null);
          });
        });
        observer.observe(element, { attributes: true, attributeFilter: [attribute] });
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key, code: key, bubbles: true }));
      }),
    what,
  );
}

/** @param {string} url @param {string} chromium */
async function benchScreen(url, chromium) {
  const { chromium: browserType } = await import('@playwright/test');
  const browser = await browserType.launch({
    executablePath: chromium,
    args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${url}/chain?symbol=MRX40`);
  await page.getByTestId('chain').waitFor();
  const contracts = await page.evaluate(async () => {
    const answer = await fetch('/api/v1/underlyings/MRX40/snapshots/latest');
    const snapshot = /** @type {{ measures: { contracts: number } }} */ (await answer.json());
    return snapshot.measures.contracts;
  });
  const measure = async (/** @type {Parameters<typeof timeKey>[1]} */ what) => {
    const times = [];
    for (let i = 0; i < STEPS; i++) {
      times.push(Number(await timeKey(page, what)));
      await page.waitForLoadState('networkidle');
    }
    return times;
  };
  report('basis_to_painted_cells_ms', {
    contracts,
    ...spread(await measure({ key: 'b', selector: '[data-testid="chain"]', attribute: 'data-basis' })),
  });
  await page.goto(`${url}/surface?symbol=MRX40`);
  const skew = 'section[aria-label="Skew"] [data-testid="plot"]';
  await page.locator(`${skew}[data-drawn]`).waitFor();
  await page.waitForLoadState('networkidle');
  report('asof_step_to_repainted_skew_ms', {
    contracts,
    ...spread(await measure({ key: '[', selector: skew, attribute: 'data-drawn' })),
  });
  await browser.close();
}

async function main() {
  checkNode();
  await ensureNpmPackages();
  const programs = await ensurePostgres();
  const chromium = runs('screen') ? await ensureChromium() : '';
  const folder = mkdtempSync(join(tmpdir(), 'umwelt-bench-'));
  chmodSync(folder, 0o755);
  const cluster = await startCluster(programs, folder);
  try {
    await import('./lib/application.mjs');
    const { ensureDatabase, followDemo, prepareDatabase, queueMissing } = await import('./lib/data.ts');
    const { startWorkerThread } = await import('./lib/worker.mjs');
    await ensureDatabase(cluster.url('postgres'), 'umwelt');
    const database = await prepareDatabase(cluster.url());
    const worker = await startWorkerThread(cluster.url());
    const started = performance.now();
    const seconds = () => Number(((performance.now() - started) / 1000).toFixed(1));
    const { demo } = await queueMissing(database);
    if (demo) {
      await followDemo(database, demo.id, { isFirstEnough: true });
      const first = seconds();
      await followDemo(database, demo.id, {});
      report('demo_ready', { firstUnderlyingsSeconds: first, allSeconds: seconds() });
    }
    await worker.stop();
    if (runs('import')) await benchImport(database, folder);
    await database.$client.end();
    if (runs('screen')) {
      const { ensureBuild } = await import('./lib/build.mjs');
      await ensureBuild();
      const { serveBuild } = await import('./lib/serve.mjs');
      const port = await freePort();
      const server = await serveBuild('127.0.0.1', port, cluster.url());
      await benchScreen(`http://127.0.0.1:${port}`, chromium);
      await server.stop();
    }
  } finally {
    await cluster.stop();
    rmSync(folder, { recursive: true, force: true });
    rmSync(dirname(cluster.folder), { recursive: true, force: true });
  }
  process.exit(0);
}

main().catch(fail);
