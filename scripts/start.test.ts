import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ROOT } from './lib/packages.mjs';
import { freePort } from './lib/postgres.mjs';
import { commandLine, isAlive } from './lib/processes.mjs';

/** The real start script, on a data folder and a port of its own; the build is the one that is there. */
let folder: string;
let port: number;
const started: ChildProcess[] = [];

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'umwelt-start-'));
  chmodSync(folder, 0o755);
  port = await freePort();
});

afterAll(async () => {
  for (const child of started) if (child.exitCode === null) child.kill('SIGINT');
  await Promise.all(
    started.map((child) => child.exitCode ?? child.signalCode ?? new Promise((resolve) => child.once('exit', resolve))),
  );
  rmSync(folder, { recursive: true, force: true });
});

function run(script: string, args: string[] = [], more: NodeJS.ProcessEnv = {}) {
  const env = { ...process.env, UMWELT_DATA_DIR: folder, PORT: String(port), DATABASE_URL: '', ...more };
  const child = spawn(process.execPath, [join(ROOT, 'scripts', script), ...args], { env, cwd: ROOT });
  started.push(child);
  let output = '';
  child.stdout.on('data', (chunk) => (output += chunk));
  child.stderr.on('data', (chunk) => (output += chunk));
  const ended = new Promise<number | null>((resolve) => child.once('exit', resolve));
  const says = (words: string) =>
    new Promise<void>((resolve, reject) => {
      const look = () => output.includes(words) && (resolve(), true);
      if (look()) return;
      child.stdout.on('data', look);
      void ended.then(() => look() || reject(new Error(`ended without saying “${words}”:\n${output}`)));
    });
  return { child, ended, says, output: () => output };
}

const health = async () => (await fetch(`http://127.0.0.1:${port}/api/v1/health`)).status;
const state = () =>
  JSON.parse(readFileSync(join(folder, 'running.json'), 'utf8')) as { pid: number; databaseUrl: string };

/** The database server of a connection string, by the port in its command line. */
function serverOf(url: string): number | undefined {
  const pids = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number);
  return pids.find((pid) => commandLine(pid).includes(`port=${new URL(url).port} `));
}

describe('npm start', { timeout: 180_000 }, () => {
  it('makes the data, serves, refuses a second, recovers from kill -9, and stops clean', async () => {
    const first = run('start.mjs');
    await first.says('Umwelt is ready');
    expect(first.output()).toContain('demo import');
    expect(await health()).toBe(200);
    const second = run('start.mjs', [], { PORT: String(port + 1) });
    expect(await second.ended).toBe(1);
    expect(second.output()).toContain('Umwelt is already running at');

    const orphan = state().databaseUrl;
    first.child.kill('SIGKILL');
    await first.ended;
    expect(await fetch(`http://127.0.0.1:${port}/`).catch(() => null)).toBeNull();
    // The database server is still there, so an older method can be pretended.
    const client = new pg.Client({ connectionString: orphan });
    await client.connect();
    await client.query("UPDATE measures SET method = 0 WHERE symbol = 'CAIR'");
    await client.end();
    const third = run('start.mjs');
    await third.says('Umwelt is ready');
    expect(third.output()).not.toContain('demo import');
    expect(third.output()).toContain('60 snapshots derived anew by the present method');
    expect(await health()).toBe(200);
    expect(serverOf(orphan)).toBeUndefined();

    const server = serverOf(state().databaseUrl)!;
    expect(isAlive(server)).toBe(true);
    third.child.kill('SIGINT');
    expect(await third.ended).toBe(0);
    expect(isAlive(server)).toBe(false);
    expect(existsSync(join(folder, 'running.json'))).toBe(false);
  });

  it('npm run import works without the application, and says what is wrong by row', async () => {
    const file = join(folder, 'bars.csv');
    writeFileSync(file, 'symbol,date,open,high,low,close\nCAIR,2031-03-14,110,112,109,x\n');
    const bad = run('import.mjs', [file]);
    expect(await bad.ended).toBe(1);
    expect(bad.output()).toContain('bars, 1 rows: 1 of 1 rows are bad; nothing was imported');
    expect(bad.output()).toContain('row 2, column close: “x” is not a number');
    writeFileSync(file, 'symbol,date,open,high,low,close\nCAIR,2031-03-14,110,112,109,111\n');
    const good = run('import.mjs', [file]);
    expect(await good.ended, good.output()).toBe(0);
    expect(good.output()).toContain('bars, 1 rows: 1 added');
    const none = run('import.mjs', [join(folder, 'missing.csv')]);
    expect(await none.ended).toBe(1);
    expect(none.output()).toContain('There is no file');
  });
});
