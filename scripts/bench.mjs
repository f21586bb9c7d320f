/**
 * `npm run bench`: how fast imports and screens are, on a database and a server of its own. One JSON line each.
 * `npm run bench -- import` or `-- screen` runs one of the two.
 */
import { chmodSync, createWriteStream, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { checkNode, ensureChromium, ensureNpmPackages, ensurePostgres } from './lib/packages.mjs';
import { fail } from './lib/phases.mjs';
import { freePort, startCluster } from './lib/postgres.mjs';

const wanted = process.argv.slice(2);
const runs = (/** @type {string} */ name) => wanted.length === 0 || wanted.includes(name);
const ROUNDS = 5;
/** Years by which the demo's chains are moved to make a larger file. */
const COPIES = [20, 22, 24, 26, 28];
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

/** One chain file of many sessions: the demo's, moved by years. @param {string[]} chains @param {string} path */
async function largeChain(chains, path) {
  const out = createWriteStream(path);
  const texts = chains.map((chain) => readFileSync(chain, 'utf8'));
  out.write(texts[0]?.slice(0, texts[0].indexOf('\n') + 1));
  for (const years of COPIES) {
    for (const text of texts) {
      const rows = text.slice(text.indexOf('\n') + 1);
      out.write(rows.replace(/\b203([01])-/g, (_, year) => `${2030 + Number(year) + years}-`));
    }
  }
  out.end();
  await once(out, 'finish');
}

/**
 * @param {import('../web/src/lib/server/db').Database} database
 * @param {string[]} files
 * @param {string} folder
 */
async function benchImport(database, files, folder) {
  const { diskSource, importFile } = await import('../web/src/lib/server/ingest/index.ts');
  const path = join(folder, 'large.csv');
  await largeChain(
    files.filter((file) => basename(file).startsWith('chain-')),
    path,
  );
  for (let round = 0; round < ROUNDS; round++) {
    const started = performance.now();
    const cpu = process.cpuUsage();
    const record = await importFile(database, diskSource(path));
    const seconds = (performance.now() - started) / 1000;
    const used = process.cpuUsage(cpu);
    if (record.status !== 'done') throw new Error(`the import ended ${record.status}: ${record.detail}`);
    report('import_with_vols_and_fits', {
      quotes: record.rows,
      seconds: Number(seconds.toFixed(2)),
      quotesPerSecond: Math.round(record.rows / seconds),
      cpuSeconds: Number(((used.user + used.system) / 1e6).toFixed(2)),
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
    const { ensureDatabase, ensureDemo, prepareDatabase } = await import('./lib/data.ts');
    await ensureDatabase(cluster.url('postgres'), 'umwelt');
    const database = await prepareDatabase(cluster.url());
    const files = await ensureDemo(database, folder);
    if (runs('import')) await benchImport(database, files, folder);
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
