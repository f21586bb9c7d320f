/**
 * `npm run bench`: how fast the core is against compiled programs, and imports and screens on a database and a server of
 * their own. One JSON line each. `npm run bench -- core`, `-- import` or `-- screen` runs one of them; `-- volume`, which takes some minutes, fills the database
 * with a year of 500 underlyings and measures what is read from it; `-- universe`, which takes as long, with bars and measures of
 * 5 000; `-- load` reads chains with twenty clients for ten minutes, with and without two hundred who listen to the feed.
 */
import { chmodSync, createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { checkNode, ensureChromium, ensureNpmPackages, ensurePostgres } from './lib/packages.mjs';
import { benchCore } from './lib/core-bench.mjs';
import { fail, Stop } from './lib/phases.mjs';
import { startCluster } from './lib/postgres.mjs';

const wanted = process.argv.slice(2);
const runs = (/** @type {string} */ name) =>
  wanted.length === 0 ? !['volume', 'universe', 'load'].includes(name) : wanted.includes(name);
const ROUNDS = 5;
const STEPS = 24;
/** Ten minutes in all: what grows in memory is seen by then. */
const LOAD_SECONDS = 300;

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

/**
 * What a chain file holds: underlyings by their numbers, and sessions, expiries and strikes of each.
 *
 * @typedef {{ from: number, to: number, sessions: number, expiries: number, strikes: number }} Extent
 */

/** A million rows. */
const LARGE = { from: 0, to: 50, sessions: 10, expiries: 20, strikes: 50 };

/**
 * The vol of a slice that grows with time as those of markets do (J. Gatheral and A. Jacquier, "Arbitrage-free SVI volatility
 * surfaces", 2014, section 4).
 *
 * @param {number} k log-moneyness @param {number} years @param {number} level
 */
function smile(k, years, level) {
  const theta = level * level * years;
  const rho = -0.4;
  const phi = 0.9 / Math.sqrt(theta);
  const root = Math.sqrt((phi * k + rho) ** 2 + 1 - rho * rho);
  return Math.sqrt((0.5 * theta * (1 + rho * phi * k + root)) / years);
}

/** @param {string} path @param {Extent} extent */
async function writeChain(path, { from, to, sessions, expiries, strikes }) {
  const { makeEuropean, makeFirstOrder, priceEuropean } = await import('@umwelt/core');
  const count = 2 * strikes;
  const input = makeEuropean(count);
  const values = makeFirstOrder(count);
  const out = createWriteStream(path);
  out.write('asof,symbol,expiry,strike,side,bid,ask,volume,open_interest,underlying_price\n');
  const day = (/** @type {number} */ n) => new Date(Date.UTC(2040, 0, 2) + n * 86_400_000).toISOString().slice(0, 10);
  let written = 0;
  for (let session = 0; session < sessions; session++) {
    for (let s = from; s < to; s++) {
      const spot = 40 + 7 * (s % 50) + (session % 20);
      const head = `${day(session)}T20:45:00Z,BENCH${s}`;
      const tail = `,${spot.toFixed(2)}\n`;
      let text = '';
      for (let e = 0; e < expiries; e++) {
        const days = e < 8 ? 11 + 7 * e : 11 + 28 * (e - 6);
        for (let k = 0; k < count; k++) {
          const i = k >> 1;
          const strike = Math.round(spot * (0.6 + (0.8 / strikes) * i) * 2) / 2 + i / 1000;
          const x = Math.log(strike / spot);
          input.spot[k] = spot;
          input.strike[k] = strike;
          input.years[k] = days / 365;
          input.vol[k] = smile(x, days / 365, 0.2 + 0.01 * (s % 20));
          input.sign[k] = k % 2 === 0 ? 1 : -1;
        }
        priceEuropean(input, values, count);
        const expiry = day(session + days);
        for (let k = 0; k < count; k++) {
          const price = values.price[k] ?? NaN;
          const half = 0.01 + 0.01 * price;
          text += `${head},${expiry},${input.strike[k]?.toFixed(3)},${k % 2 === 0 ? 'C' : 'P'},${Math.max(0, price - half).toFixed(2)},${(price + half).toFixed(2)},${written % 997},${written % 9973}${tail}`;
          written++;
        }
      }
      if (!out.write(text)) await once(out, 'drain');
    }
  }
  out.end();
  await once(out, 'finish');
}

/** A file of underlyings. @param {number} count */
function names(count) {
  const lines = Array.from({ length: count }, (_, s) => `BENCH${s},Benchmark ${s},index,european`);
  return Buffer.from(['symbol,name,kind,exercise', ...lines].join('\n'));
}

/**
 * @param {import('../web/src/lib/server/db').Database} database
 * @param {string} folder
 */
async function benchImport(database, folder) {
  const { diskSource, importFile, memorySource } = await import('../web/src/lib/server/ingest/index.ts');
  const path = join(folder, 'large.csv');
  await writeChain(path, LARGE);
  await importFile(database, memorySource('names.csv', names(LARGE.to)));
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

const YEAR = 252;
const UNDERLYINGS = 500;
/** The first has 2 000 contracts a snapshot, the others 200. */
const WIDE = { from: 0, to: 1, sessions: YEAR, expiries: 20, strikes: 50 };
const FILES = 20;

/**
 * Fills a database with a year of many underlyings.
 *
 * @param {import('../web/src/lib/server/db').Database} database
 * @param {string} folder
 */
async function fillYear(database, folder) {
  const { diskSource, importFile, memorySource } = await import('../web/src/lib/server/ingest/index.ts');
  await importFile(database, memorySource('names.csv', names(UNDERLYINGS)));
  const path = join(folder, 'year.csv');
  const each = UNDERLYINGS / FILES;
  const others = Array.from({ length: FILES }, (_, n) => ({ from: Math.max(1, n * each), to: (n + 1) * each }));
  const extents = [WIDE, ...others.map((part) => ({ ...part, sessions: YEAR, expiries: 5, strikes: 20 }))];
  const total = { quotes: 0, writing: 0, importing: 0 };
  for (const extent of extents) {
    const started = performance.now();
    await writeChain(path, extent);
    const written = performance.now();
    const record = await importFile(database, diskSource(path));
    if (record.status !== 'done') throw new Error(`the import ended ${record.status}: ${record.detail}`);
    total.quotes += record.rows;
    total.writing += (written - started) / 1000;
    total.importing += (performance.now() - written) / 1000;
  }
  await database.execute('ANALYZE');
  report('year_of_500_underlyings', {
    quotes: total.quotes,
    writingSeconds: Math.round(total.writing),
    importingSeconds: Math.round(total.importing),
  });
  for (const table of ['slices', 'fits', 'measures']) {
    const { rows } = await database.execute(
      `SELECT sum(pg_total_relation_size(inhrelid))::float8 AS bytes FROM pg_inherits WHERE inhparent = '${table}'::regclass`,
    );
    const bytes = Number(rows[0]?.bytes);
    report(`disk_${table}`, {
      megabytes: Math.round(bytes / 1e6),
      megabytesPerMillionQuotes: Number((bytes / total.quotes).toFixed(1)),
    });
  }
}

const READS = 100;

/** Milliseconds of requests to their last byte. @param {string} url */
async function benchReads(url) {
  const at = (/** @type {string} */ path) => `${url}/api/v1${path}`;
  const { snapshots } = /** @type {{ snapshots: { asof: string, contracts: number }[] }} */ (
    await (await fetch(at('/underlyings/BENCH0/snapshots'))).json()
  );
  const time = async (/** @type {string} */ name, /** @type {(n: number) => string} */ pathOf, count = READS) => {
    const times = [];
    let bytes = 0;
    for (let n = -10; n < count; n++) {
      const started = performance.now();
      const answer = await fetch(at(pathOf(n + 10)));
      bytes = (await answer.arrayBuffer()).byteLength;
      if (n >= 0) times.push(performance.now() - started);
    }
    report(name, { kilobytes: Math.round(bytes / 1000), ...spread(times) });
  };
  // Each another moment: nothing that was kept from the last one helps.
  const other = (/** @type {number} */ n) => snapshots[(n * 97) % snapshots.length];
  await time('snapshot_of_2000_contracts_ms', (n) => `/underlyings/BENCH0/snapshots/${other(n)?.asof}`);
  await time('snapshot_of_200_contracts_ms', (n) => `/underlyings/BENCH${1 + n}/snapshots/${other(n)?.asof}`);
  await time('moments_of_a_year_ms', (n) => `/underlyings/BENCH${n}/snapshots`);
  await time('universe_of_500_ms', () => '/underlyings', 10);
  await time('holdings_of_500_ms', () => '/holdings', 10);
}

/**
 * Milliseconds from a key or a click on a button to the frame after the element, or something in it, has changed.
 *
 * @param {import('@playwright/test').Page} page
 * @param {{ key?: string, button?: string, selector: string, attribute: string }} what
 */
function timeTo(page, what) {
  return page.evaluate(
    ({ key, button, selector, attribute }) =>
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
            // Held, so that it is not collected with a message under way.
            /** @type {any} */ (globalThis).lastChannel = channel;
            channel.port1.onmessage = () => resolve(performance.now() - started);
            channel.port2.postMessage(null);
          });
        });
        observer.observe(element, { attributes: true, attributeFilter: [attribute], subtree: true });
        if (button === undefined)
          document.body.dispatchEvent(new KeyboardEvent('keydown', { key, code: key, bubbles: true }));
        else [...document.querySelectorAll('button')].find((one) => one.textContent.trim() === button).click();
      }),
    what,
  );
}

const DRAGGED_MS = 4000;

/** Milliseconds between frames while a level of Odds is dragged. @param {import('@playwright/test').Page} page @param {string} url */
async function dragFrames(page, url) {
  await page.goto(`${url}/odds?symbol=MRX40&laws=curve,level,realized,past`);
  const handle = page.getByRole('slider', { name: 'Level 1' });
  const box = await handle.boundingBox();
  if (!box) throw new Error('no level to be dragged');
  await page.waitForLoadState('networkidle');
  await page.mouse.move(box.x + 6, box.y + 40);
  await page.mouse.down();
  const frames = page.evaluate(
    (/** @type {number} */ lasts) =>
      new Promise((resolve) => {
        const { requestAnimationFrame } = /** @type {any} */ (globalThis);
        /** @type {number[]} */
        const times = [];
        const end = performance.now() + lasts;
        let last = performance.now();
        const step = (/** @type {number} */ now) => {
          times.push(now - last);
          last = now;
          if (now < end) requestAnimationFrame(step);
          else resolve(times.slice(2));
        };
        requestAnimationFrame(step);
      }),
    DRAGGED_MS,
  );
  const until = Date.now() + DRAGGED_MS;
  for (let i = 0; Date.now() < until; i++) await page.mouse.move(box.x + 6 + 60 * Math.sin(i / 10), box.y + 40);
  await page.mouse.up();
  return /** @type {Promise<number[]>} */ (frames);
}

const PLAYED_SECONDS = 8;

/**
 * Milliseconds between the frames of a page that plays, and between the moments that it shows.
 *
 * @param {import('@playwright/test').Page} page
 * @returns {Promise<{ frames: number[], moments: number[] }>}
 */
function timeFrames(page) {
  return page.evaluate(async (seconds) => {
    const { document, KeyboardEvent, requestAnimationFrame } = /** @type {any} */ (globalThis);
    const asof = document.querySelector('[data-testid="asof"]');
    const [frames, moments] = [/** @type {number[]} */ ([]), /** @type {number[]} */ ([])];
    let [text, shown] = [asof.textContent, 0];
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', code: 'Space', bubbles: true }));
    const started = await new Promise(requestAnimationFrame);
    for (let last = started; last - started < 1000 * seconds;) {
      const now = await new Promise(requestAnimationFrame);
      frames.push(now - last);
      last = now;
      if (asof.textContent === text) continue;
      text = asof.textContent;
      if (shown > 0) moments.push(now - shown);
      shown = now;
    }
    return { frames, moments };
  }, PLAYED_SECONDS);
}

/** A page of the size that the application is made for. @param {string} chromium */
async function openPage(chromium) {
  const { chromium: browserType } = await import('@playwright/test');
  const browser = await browserType.launch({
    executablePath: chromium,
    args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
  });
  return { browser, page: await browser.newPage({ viewport: { width: 1280, height: 800 } }) };
}

/** @param {string} url @param {string} chromium */
async function benchScreen(url, chromium) {
  const { browser, page } = await openPage(chromium);
  const measure = async (/** @type {Parameters<typeof timeTo>[1]} */ what) => {
    const times = [];
    for (let i = 0; i < STEPS; i++) {
      times.push(Number(await timeTo(page, what)));
      await page.waitForLoadState('networkidle');
    }
    return times;
  };
  for (const symbol of ['MRX40', 'BENCH0']) {
    await page.goto(`${url}/chain?symbol=${symbol}`);
    await page.getByTestId('chain').waitFor();
    await page.waitForLoadState('networkidle');
    const contracts = await page.evaluate(async (name) => {
      const answer = await fetch(`/api/v1/underlyings/${name}/snapshots/latest`);
      const snapshot = /** @type {{ measures: { contracts: number } }} */ (await answer.json());
      return snapshot.measures.contracts;
    }, symbol);
    const times = await measure({ key: 'b', selector: '[data-testid="chain"]', attribute: 'data-basis' });
    report('basis_to_painted_cells_ms', { contracts, ...spread(times) });
  }
  await page.goto(`${url}/chain?symbol=MRX40`);
  await page.getByTestId('chain').waitFor();
  report('draw_100000_paths_in_worker_ms', spread(await timeDraws(page)));
  report('zone_dragged_frame_ms', spread(await dragFrames(page, url)));
  await page.goto(`${url}/surface?symbol=MRX40`);
  const skew = 'section[aria-label="Skew"] [data-testid="plot"]';
  await page.locator(`${skew}[data-drawn]`).waitFor();
  await page.waitForLoadState('networkidle');
  const steps = await measure({ key: '[', selector: skew, attribute: 'data-drawn' });
  report('asof_step_to_repainted_skew_ms', spread(steps));
  for (const [name, view] of [
    ['skew', ''],
    ['skew_with_bands', '&axis=standardized&band=shown&layers=realized,band'],
    ['map', '&view=map&axis=standardized'],
    ['body', '&view=map&as=body&axis=standardized'],
    ['quotes', '&view=pairs&pair=3+steps&panel=arbitrage'],
    ['beside', '&axis=standardized&beside=MERI,ISLX'],
  ]) {
    await page.goto(`${url}/surface?symbol=MRX40&speed=30${view}`);
    await page.locator('[data-testid="plot"][data-drawn], [data-testid="solid"][data-drawn]').first().waitFor();
    await page.waitForLoadState('networkidle');
    const { frames, moments } = await timeFrames(page);
    report(`playback_${name}_frame_ms`, { frames: frames.length, ...spread(frames) });
    report(`playback_${name}_moment_ms`, { moments: moments.length, ...spread(moments) });
  }
  await browser.close();
}

/**
 * Imports a chain that is made up.
 *
 * @param {import('../web/src/lib/server/db').Database} database
 * @param {string} folder
 * @param {Extent} extent
 */
async function importChain(database, folder, extent) {
  const { diskSource, importFile, memorySource } = await import('../web/src/lib/server/ingest/index.ts');
  await importFile(database, memorySource('names.csv', names(extent.to)));
  const path = join(folder, 'session.csv');
  await writeChain(path, extent);
  const record = await importFile(database, diskSource(path));
  if (record.status !== 'done') throw new Error(`the import ended ${record.status}: ${record.detail}`);
  return record;
}

/** One snapshot of 2 000 contracts. */
const TWO_THOUSAND = { from: 0, to: 1, sessions: 1, expiries: 20, strikes: 50 };
const DRAWS = 12;

/**
 * Milliseconds to draw 100 000 paths of blocks in the worker of a page, with the way there and back: in the words of the
 * library that the page talks to it by.
 *
 * @param {import('@playwright/test').Page} page
 */
function timeDraws(page) {
  return page.evaluate(async (draws) => {
    const { Worker } = /** @type {any} */ (globalThis);
    const [entry] = performance.getEntriesByType('resource').filter(({ name }) => name.includes('chain.worker'));
    if (!entry) throw new Error('the page has started no worker');
    const worker = new Worker(entry.name, { type: 'module' });
    const answer = await fetch('/api/v1/underlyings/MRX40/snapshots/latest');
    const { slices } = /** @type {any} */ (await answer.json());
    const fit = slices.find((/** @type {any} */ one) => one.fit.sessions >= 20).fit;
    const times = [];
    for (let draw = 0; draw < draws; draw++) {
      // Each another past: what was drawn once is kept.
      const close = Float64Array.from({ length: 260 }, (_, i) => 100 * Math.exp(0.01 * Math.sin(i * (1 + draw / 7))));
      const bars = { close, high: close.map((x) => 1.004 * x), low: close.map((x) => 0.996 * x) };
      const given = [
        { kind: 'index', exercise: 'european', price: fit.forward },
        fit,
        { bars, sampling: 'blocks', drift: 'forward' },
      ];
      const started = performance.now();
      const drawn = new Promise((resolve) => (worker.onmessage = (/** @type {any} */ event) => resolve(event.data)));
      worker.postMessage({
        ...{ id: String(draw), type: 'APPLY', path: ['sample'] },
        argumentList: given.map((value) => ({ type: 'RAW', value })),
      });
      const { value } = /** @type {any} */ (await drawn);
      if (value.ends.length !== 100_000) throw new Error('no paths were drawn');
      times.push(performance.now() - started);
    }
    worker.terminate();
    return times.slice(1);
  }, DRAWS);
}

const REBUILT = { from: 0, to: 500, sessions: 1, expiries: 20, strikes: 50 };

/**
 * Derives one session of 500 underlyings again, 2 000 contracts each.
 *
 * @param {import('../web/src/lib/server/db').Database} database
 * @param {string} folder
 */
async function benchRebuild(database, folder) {
  const { rebuildDerived } = await import('../web/src/lib/server/ingest/index.ts');
  const record = await importChain(database, folder, REBUILT);
  const started = performance.now();
  const snapshots = await rebuildDerived(database);
  report('rebuild_one_session_of_500', {
    snapshots,
    quotes: record.rows,
    seconds: Number(((performance.now() - started) / 1000).toFixed(1)),
  });
}

/** Screens over 5 000 underlyings, in milliseconds to the last byte. @param {string} url */
async function benchScreens(url) {
  const { SIXTY_COLUMNS, THREE_FILTERS } = await import('./lib/universe-bench.mjs');
  const ask = async (/** @type {object} */ body) => {
    const started = performance.now();
    const answer = await fetch(`${url}/api/v1/screen`, { method: 'POST', body: JSON.stringify(body) });
    if (!answer.ok) throw new Error(await answer.text());
    await answer.arrayBuffer();
    return performance.now() - started;
  };
  const screen = (/** @type {number} */ n) => ({
    columns: SIXTY_COLUMNS.slice(1),
    filters: [...THREE_FILTERS, `rr25 < ${(n / 1000).toFixed(3)}`],
    // Each another formula: what was computed for the last one helps no more than it does a user.
    sort: { by: `iv30 / hv20.yz + ${n}` },
  });
  const first = await ask(screen(0));
  const time = async (/** @type {string} */ name, /** @type {(n: number) => object} */ more, count = 40) => {
    const times = [];
    for (let n = 1; n <= count; n++) times.push(await ask({ ...screen(n), ...more(n) }));
    report(name, spread(times.slice(2)));
  };
  report('screen_5000_by_60_first_ms', { ms: Math.round(first) });
  await time('screen_5000_by_60_a_page_ms', () => ({ count: 200 }));
  await time('screen_5000_by_60_all_rows_ms', () => ({}));
  const day = (/** @type {number} */ n) => new Date(Date.UTC(2031, 1, 28) - 86_400_000 * n).toISOString();
  await time('screen_5000_by_60_another_moment_ms', (n) => ({ count: 200, asof: day(n) }), 12);
}

/** Scrolling and sorting 5 000 rows, and five years of one underlying. @param {string} url @param {string} chromium */
async function benchUniversePage(url, chromium) {
  const { browser, page } = await openPage(chromium);
  await page.goto(`${url}/universe`);
  await page.locator('[data-symbol]').first().waitFor();
  await page.waitForLoadState('networkidle');
  const frames = /** @type {number[]} */ (
    await page.evaluate(async (seconds) => {
      const { document, requestAnimationFrame } = /** @type {any} */ (globalThis);
      const table = document.querySelector('[data-testid="universe"]');
      const times = [];
      const started = await new Promise(requestAnimationFrame);
      for (let last = started, top = 0; last - started < 1000 * seconds;) {
        table.scrollTop = top += 45;
        const now = await new Promise(requestAnimationFrame);
        times.push(now - last);
        last = now;
      }
      table.scrollTop = 0;
      return times;
    }, PLAYED_SECONDS)
  );
  report('scroll_5000_rows_frame_ms', { frames: frames.length, ...spread(frames) });
  const sorts = [];
  for (let i = 0; i < STEPS; i++) {
    const button = i % 2 === 0 ? 'gap' : 'price';
    sorts.push(Number(await timeTo(page, { button, selector: '[data-testid="universe"]', attribute: 'data-symbol' })));
    await page.waitForLoadState('networkidle');
  }
  report('sort_5000_rows_to_painted_ms', spread(sorts));
  await page.goto(`${url}/history?symbol=U0000&span=bars&iv=iv7,iv30,iv90&hv=yz,close,gk`);
  const plot = 'section[aria-label="History"] [data-testid="plot"]';
  await page.locator(`${plot}[data-drawn]`).waitFor();
  await page.waitForLoadState('networkidle');
  const drawn = [];
  for (let i = 0; i < STEPS; i++)
    drawn.push(
      Number(await timeTo(page, { button: i % 2 === 0 ? '60' : '20', selector: plot, attribute: 'data-drawn' })),
    );
  report('history_of_five_years_six_series_drawn_ms', spread(drawn));
  await browser.close();
}

async function main() {
  checkNode();
  await ensureNpmPackages({ forTests: true });
  if (runs('core') && !(await benchCore())) throw new Stop('a checksum differs from that of the compiled program');
  if (!['import', 'screen', 'volume', 'universe', 'load'].some(runs)) process.exit(0);
  const programs = await ensurePostgres();
  const chromium = runs('screen') || runs('universe') ? await ensureChromium() : '';
  const folder = mkdtempSync(join(tmpdir(), 'umwelt-bench-'));
  chmodSync(folder, 0o755);
  const cluster = await startCluster(programs, folder);
  try {
    await import('./lib/application.mjs');
    const { ensureDatabase, followDemo, prepareDatabase, queueMissing } = await import('./lib/data.ts');
    const { ensureThreads } = await import('./lib/build.mjs');
    await ensureThreads();
    const { startWorkerThread } = await import('./lib/worker.mjs');
    await ensureDatabase(cluster.url('postgres'), 'umwelt');
    const database = await prepareDatabase(cluster.url());
    const worker = await startWorkerThread(cluster.url());
    const started = performance.now();
    const seconds = () => Number(((performance.now() - started) / 1000).toFixed(1));
    const { demo } = ['import', 'screen', 'load'].some(runs) ? await queueMissing(database) : { demo: null };
    if (demo) {
      await followDemo(database, demo.id, { isFirstEnough: true });
      const first = seconds();
      await followDemo(database, demo.id, {});
      report('demo_ready', { firstUnderlyingsSeconds: first, allSeconds: seconds() });
    }
    await worker.stop();
    if (runs('screen')) await importChain(database, folder, TWO_THOUSAND);
    if (runs('import')) await benchImport(database, folder);
    if (runs('volume')) await fillYear(database, folder);
    if (runs('universe')) {
      await benchRebuild(database, folder);
      const { fillUniverse } = await import('./lib/universe-bench.mjs');
      const { rows, seconds: spent } = await fillUniverse(database, {
        underlyings: 5000,
        sessions: 300,
        longest: 1260,
      });
      report('universe_of_5000_written', { rows, seconds: Math.round(spent) });
    }
    await database.$client.end();
    if (runs('load')) {
      const { ensureBuild } = await import('./lib/build.mjs');
      await ensureBuild();
      const { serveApart } = await import('./lib/served.mjs');
      const { benchLoad } = await import('./lib/load-bench.mjs');
      const server = await serveApart(cluster.url());
      await benchLoad(server.url, server.pid, { seconds: LOAD_SECONDS, report }).finally(server.stop);
    }
    if (runs('screen') || runs('volume') || runs('universe')) {
      const { ensureBuild } = await import('./lib/build.mjs');
      await ensureBuild();
      // Apart: who asks must not slow down who answers.
      const { serveApart } = await import('./lib/served.mjs');
      const server = await serveApart(cluster.url(), { UMWELT_WORKER: 'off' });
      if (runs('screen')) await benchScreen(server.url, chromium);
      if (runs('volume')) await benchReads(server.url);
      if (runs('universe')) {
        await benchScreens(server.url);
        await benchUniversePage(server.url, chromium);
      }
      server.stop();
    }
  } finally {
    await cluster.stop();
    rmSync(folder, { recursive: true, force: true });
    rmSync(dirname(cluster.folder), { recursive: true, force: true });
  }
  process.exit(0);
}

main().catch(fail);
