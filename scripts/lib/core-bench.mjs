/**
 * The hot paths of the core against compiled programs for the same work, where their folder is at hand: each of our
 * benchmarks and its program take turns, so that what else the machine does falls on both.
 */
import { execFile, execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { promisify } from 'node:util';
import { ROOT } from './packages.mjs';

const ROUNDS = 5;
const FOLDER = process.env.UMWELT_LIMITS || join(ROOT, '../shared/limit');
const PLAIN = ['-O3', '-march=native', '-std=c++17'];
const SCALAR = ['-fno-math-errno', '-fno-trapping-math', '-fno-tree-vectorize', '-fno-tree-slp-vectorize', '-DSCALAR'];

/**
 * What is compared: our benchmark, the lines it prints, and the program; `runs` where one takes so few milliseconds that
 * the best of several, in turns, has to stand for a round.
 *
 * @type {{ bench: string, against: string, source: string, flags: string[], lines: string[], runs?: number }[]}
 */
const PAIRS = [
  { bench: 'price', against: 'bs_price', source: 'bs_price', flags: PLAIN, lines: ['bs_price_core'] },
  {
    bench: 'implied-vol',
    against: 'implied_vol',
    source: 'implied_vol',
    flags: PLAIN,
    lines: ['implied_vol_core', 'implied_vol_single_core'],
  },
  {
    bench: 'american',
    against: 'american_scalar',
    source: 'american',
    flags: [...PLAIN, ...SCALAR],
    lines: ['american_core'],
  },
  {
    bench: 'svi',
    against: 'svi_fit_scalar',
    source: 'svi_fit',
    flags: [...PLAIN, ...SCALAR],
    lines: ['svi_fit_core'],
    runs: 5,
  },
];
/** Benchmarks that no program stands beside. */
const ALONE = ['structures', 'hedge'];
/** Sums of the same numbers in another order, and exponentials of another library, leave this. */
const SAME = 1e-9;

/** @typedef {{ name: string, itemsPerSecond: number, checksum: number }} Line */

/** The lines of a program. @param {string} program @param {string[]} args @returns {Promise<Line[]>} */
async function linesOf(program, args) {
  const { stdout } = await promisify(execFile)(program, args);
  return stdout
    .split('\n')
    .filter((line) => line.startsWith('{'))
    .map((line) => JSON.parse(line));
}

/** The faster of two runs, line by line. @param {Line[]} lines @param {Line[]} others @returns {Line[]} */
function better(lines, others) {
  return lines.map((line, i) => {
    const other = others[i];
    return other && other.itemsPerSecond > line.itemsPerSecond ? other : line;
  });
}

/** Our benchmarks as the application is built: one file each, constants still constant. @param {string} out */
async function bundle(out) {
  const vite = createRequire(join(ROOT, 'web/package.json')).resolve('vite');
  const { build } = await import(pathToFileURL(vite).href);
  await build({
    root: ROOT,
    configFile: false,
    logLevel: 'error',
    ssr: { noExternal: true },
    build: {
      ssr: true,
      outDir: out,
      emptyOutDir: false,
      minify: false,
      target: 'node20',
      rollupOptions: {
        input: [...PAIRS.map(({ bench }) => bench), ...ALONE].map((bench) => join(ROOT, `core/bench/${bench}.ts`)),
        output: { entryFileNames: '[name].mjs' },
      },
    },
  });
}

/** @param {number[]} values */
const median = (values) => values.toSorted((a, b) => a - b)[values.length >> 1] ?? NaN;

/** Prints a line a benchmark and round, then the ratios; false where a checksum differs. @returns {Promise<boolean>} */
export async function benchCore() {
  const out = mkdtempSync(join(tmpdir(), 'umwelt-core-bench-'));
  try {
    await bundle(out);
    for (const bench of ALONE)
      for (const line of await linesOf(process.execPath, [join(out, `${bench}.mjs`)]))
        console.log(JSON.stringify(line));
    const hasPrograms = existsSync(join(FOLDER, 'cpp'));
    if (!hasPrograms) console.error(`no compiled programs in ${FOLDER}: no ratios`);
    /** @type {Map<string, { against: string, ratios: number[], apart: number }>} */
    const found = new Map();
    for (const { against, source, flags } of hasPrograms ? PAIRS : []) {
      execFileSync('g++', [...flags, '-o', join(out, against), join(FOLDER, `cpp/${source}.cpp`)]);
    }
    for (let round = 0; round < (hasPrograms ? ROUNDS : 1); round++) {
      for (const { bench, against, lines, runs = 1 } of PAIRS) {
        let ours = await linesOf(process.execPath, [join(out, `${bench}.mjs`)]);
        let theirs = hasPrograms ? await linesOf(join(out, against), []) : [];
        for (let run = 1; hasPrograms && run < runs; run++) {
          ours = better(ours, await linesOf(process.execPath, [join(out, `${bench}.mjs`)]));
          theirs = better(theirs, await linesOf(join(out, against), []));
        }
        for (const line of [...ours, ...theirs]) console.log(JSON.stringify(line));
        const [compiled] = theirs;
        if (!hasPrograms) continue;
        if (!compiled) throw new Error(`${against} printed nothing`);
        for (const line of ours.filter(({ name }) => lines.includes(name))) {
          const pair = found.get(line.name) ?? { against, ratios: [], apart: 0 };
          pair.ratios.push(line.itemsPerSecond / compiled.itemsPerSecond);
          pair.apart = Math.max(pair.apart, Math.abs(line.checksum / compiled.checksum - 1));
          found.set(line.name, pair);
        }
      }
    }
    for (const [name, { against, ratios, apart }] of found) {
      const [low, middle, high] = [Math.min(...ratios), median(ratios), Math.max(...ratios)];
      const values = { min: low.toFixed(2), median: middle.toFixed(2), max: high.toFixed(2) };
      console.log(JSON.stringify({ name: `${name} / ${against}`, ...values, checksumsApart: apart.toExponential(1) }));
    }
    return [...found.values()].every(({ apart }) => apart < SAME);
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
}
