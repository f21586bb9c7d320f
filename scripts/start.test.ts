import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statfsSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ROOT } from './lib/packages.mjs';
import { freePort } from './lib/postgres.mjs';
import { commandLine, isAlive } from './lib/processes.mjs';
import { CONTRACTS, longChain } from '../tests/long-chain';

/** The real start script, on a data folder and a port of its own; the build is the one that is there. */
const SYMBOLS = ['CAIR', 'NACR', 'QUAY', 'SPAR'];
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

/** Whether a small disk can be made for a test, which takes the rights of root. */
function canMount(): boolean {
  const place = mkdtempSync(join(tmpdir(), 'umwelt-mount-'));
  const can = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'none', place]).status === 0;
  if (can) spawnSync('umount', [place]);
  rmSync(place, { recursive: true });
  return can;
}

function run(script: string, args: string[] = [], more: NodeJS.ProcessEnv = {}) {
  const env = {
    ...process.env,
    UMWELT_DATA_DIR: folder,
    PORT: String(port),
    DATABASE_URL: '',
    UMWELT_DEMO: SYMBOLS.join(),
    ...more,
  };
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

/** Sends a file, and says under which number it is imported. */
async function send(text: string): Promise<number> {
  const answer = await fetch(`http://127.0.0.1:${port}/api/v1/imports`, { method: 'POST', body: text });
  return ((await answer.json()) as { id: number }).id;
}
const statusOf = async (id: number) => {
  const answer = await fetch(`http://127.0.0.1:${port}/api/v1/imports/${id}`).catch(() => null);
  return answer?.ok ? ((await answer.json()) as { status: string }).status : null;
};
const SESSIONS = 200;
const state = () =>
  JSON.parse(readFileSync(join(folder, 'running.json'), 'utf8')) as { pid: number; databaseUrl: string };

/** The database server of a connection string, by the port in its command line. */
function serverOf(url: string): number | undefined {
  const pids = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number);
  return pids.find((pid) => commandLine(pid).includes(`port=${new URL(url).port} `));
}

/** The server of the application, a process of its own below the one that was started. */
function webServerOf(parent: number): number | undefined {
  const pids = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number);
  return pids.find((pid) => commandLine(pid).includes('serve.mjs') && parentOf(pid) === parent);
}

function parentOf(pid: number): number {
  // pid (command) state parent …
  return Number(readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' ')[1]);
}

async function query(url: string, text: string): Promise<unknown[]> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return (await client.query(text)).rows;
  } finally {
    await client.end();
  }
}

// Beside everything else that is tested, on a slow machine.
describe('npm start', { timeout: 1_200_000 }, () => {
  it('makes the data, serves, refuses a second, goes on after kill -9, and stops clean', async () => {
    const first = run('start.mjs');
    // From its first second on a page says how far it is, and programs are told to come again.
    const pageOf = async () => {
      const answer = await fetch(`http://127.0.0.1:${port}/`).catch(() => null);
      return answer ? `${answer.status} ${await answer.text()}` : '';
    };
    await expect.poll(pageOf).toMatch(/^503 [^]*Umwelt is starting[^]*database/);
    expect(await health()).toBe(503);
    await first.says('Umwelt is ready');
    expect(first.output()).toContain('✓ first demo data');
    expect(await health()).toBe(200);
    const second = run('start.mjs', [], { PORT: String(port + 1) });
    expect(await second.ended).toBe(1);
    expect(second.output()).toContain('Umwelt is already running at');
    const open = run('start.mjs', [], { HOST: '0.0.0.0', UMWELT_DATA_DIR: join(folder, 'other') });
    expect(await open.ended).toBe(1);
    expect(open.output()).toContain('Set UMWELT_TOKEN');

    // In the middle of the demo: the rest of it is still to come.
    const orphan = state().databaseUrl;
    first.child.kill('SIGKILL');
    await first.ended;
    expect(await fetch(`http://127.0.0.1:${port}/`).catch(() => null)).toBeNull();
    // The database server is still there, so an older method can be pretended.
    expect(await query(orphan, "SELECT status FROM tasks WHERE kind = 'demo'")).toEqual([{ status: 'running' }]);
    await query(orphan, "UPDATE measures SET method = 0 WHERE symbol = 'QUAY'");
    const third = run('start.mjs');
    await third.says('Umwelt is ready');
    expect(await health()).toBe(200);
    expect(serverOf(orphan)).toBeUndefined();
    // The task was taken up where it was left, not begun anew.
    await third.says('✓ demo data');
    const { databaseUrl } = state();
    const held = await query(databaseUrl, 'SELECT symbol, count(*)::int AS count FROM snapshots GROUP BY 1 ORDER BY 1');
    expect(held).toEqual(SYMBOLS.toSorted().map((symbol) => ({ symbol, count: 311 })));
    expect(await query(databaseUrl, "SELECT kind, status FROM tasks WHERE kind = 'demo'")).toEqual([
      { kind: 'demo', status: 'done' },
    ]);
    const old = () => query(databaseUrl, 'SELECT count(*)::int AS count FROM measures WHERE method = 0');
    await expect.poll(old).toEqual([{ count: 0 }]);

    // Saved while it runs, and put into another one that is empty.
    const file = join(folder, 'saved.tar');
    const saved = run('backup.mjs', [file]);
    expect(await saved.ended, saved.output()).toBe(0);
    const other = { UMWELT_DATA_DIR: join(folder, 'other') };
    const restored = run('restore.mjs', [file], other);
    expect(await restored.ended, restored.output()).toBe(0);
    const rows = /(\d+) rows in/.exec(saved.output())![1]!;
    expect(restored.output()).toContain(`${rows} rows of`);
    writeFileSync(join(folder, 'damaged.tar'), readFileSync(file).subarray(0, 100_000));
    const damaged = run('restore.mjs', [join(folder, 'damaged.tar')], other);
    expect(await damaged.ended).toBe(1);
    expect(damaged.output()).toContain('is no backup of Umwelt, or is damaged');
    // And into itself, while it is asked: what came since is gone, and who reads sees it at once.
    const since = await send('symbol,name,kind\nSINCE,Since,index\n');
    await expect.poll(() => statusOf(since)).toBe('done');
    const knows = async () => (await fetch(`http://127.0.0.1:${port}/api/v1/underlyings/SINCE`)).status;
    expect(await knows()).toBe(200);
    const again = run('restore.mjs', [file]);
    expect(await again.ended, again.output()).toBe(0);
    await expect.poll(knows).toBe(404);
    expect(
      await query(databaseUrl, 'SELECT symbol, count(*)::int AS count FROM snapshots GROUP BY 1 ORDER BY 1'),
    ).toEqual(held);

    // The database is killed in the middle of an import: it comes back, and the import goes on from its beginning.
    const names = await send('symbol,name,kind\nKILL,Killed,index\n');
    await expect.poll(() => statusOf(names)).toBe('done');
    const killed = await send(longChain('KILL', SESSIONS));
    await expect.poll(() => statusOf(killed), { interval: 10 }).toBe('running');
    process.kill(serverOf(databaseUrl)!, 'SIGKILL');
    await expect.poll(health).not.toBe(200);
    await expect.poll(() => statusOf(killed)).toBe('done');
    expect(third.output()).toContain('The database has ended; it is started again.');
    const [whole] = (await query(
      databaseUrl,
      "SELECT count(*)::int AS snapshots, sum(contracts)::int AS contracts FROM snapshots WHERE symbol = 'KILL'",
    )) as { snapshots: number; contracts: number }[];
    expect(whole).toEqual({ snapshots: SESSIONS, contracts: SESSIONS * CONTRACTS });

    // What ends the server ends nothing else: it is there again.
    const web = webServerOf(third.child.pid!)!;
    process.kill(web, 'SIGKILL');
    await expect.poll(() => webServerOf(third.child.pid!)).not.toBe(web);
    await expect.poll(() => health().catch(() => null)).toBe(200);
    expect(third.output()).toContain('The server has ended (SIGKILL); it is started again.');

    const server = serverOf(state().databaseUrl)!;
    expect(isAlive(server)).toBe(true);
    third.child.kill('SIGINT');
    expect(await third.ended).toBe(0);
    expect(isAlive(server)).toBe(false);
    expect(existsSync(join(folder, 'running.json'))).toBe(false);
  });

  it.skipIf(!canMount())('on a full disk waits, says so, answers readers, and goes on when there is room', async () => {
    const disk = mkdtempSync(join(tmpdir(), 'umwelt-disk-'));
    spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=400m,mode=755', 'none', disk]);
    const fill = (name: string, megabytes: number) =>
      spawnSync('dd', ['if=/dev/zero', `of=${join(disk, name)}`, 'bs=1M', `count=${megabytes}`]);
    const own = await freePort();
    const at = `http://127.0.0.1:${own}/api/v1`;
    const more = { UMWELT_DATA_DIR: join(disk, 'data'), UMWELT_DEMO: 'QUAY', PORT: String(own) };
    const app = run('start.mjs', [], more);
    try {
      await app.says('✓ demo data');
      const send = async (text: string) => {
        const answer = await fetch(`${at}/imports`, { method: 'POST', body: text });
        return { status: answer.status, ...((await answer.json()) as { id: number; detail: string | null }) };
      };
      const seen = async (id: number) =>
        (await (await fetch(`${at}/imports/${id}`)).json()) as { status: string; detail: string | null };
      const names = await send('symbol,name,kind\nFULL,Full,index\n');
      await expect.poll(async () => (await seen(names.id)).status).toBe('done');
      const { id } = await send(longChain('FULL', SESSIONS));
      await expect.poll(async () => (await seen(id)).status, { interval: 10 }).toBe('running');
      const { bavail, bsize } = statfsSync(disk);
      fill('some', Math.floor((bavail * bsize) / 2 ** 20) - 40);
      await expect.poll(async () => (await seen(id)).detail).toContain('waits for room: the disk');
      expect(await send('symbol,name,kind\nMORE,More,index\n')).toMatchObject({
        status: 507,
        detail: expect.stringContaining(`(${join(disk, 'data', 'database')})`) as string,
      });
      // To the last byte: whoever reads is answered still.
      fill('rest', 400);
      expect((await fetch(`${at}/underlyings/QUAY/chain`)).status).toBe(200);
      rmSync(join(disk, 'some'));
      rmSync(join(disk, 'rest'));
      await expect.poll(async () => (await seen(id)).status).toBe('done');
      // Taken again; the worker may have begun with it before the answer is there.
      const taken = await send('symbol,name,kind\nMORE,More,index\n');
      expect(taken.status).toMatch(/^(queued|running|deriving|done)$/);
    } finally {
      app.child.kill('SIGINT');
      await app.ended;
      spawnSync('umount', [disk]);
      rmSync(disk, { recursive: true, force: true });
    }
  });

  it('npm run import and npm run rebuild work without the application; what is wrong is said by row', async () => {
    const file = join(folder, 'bars.csv');
    writeFileSync(file, 'symbol,date,open,high,low,close\nQUAY,2031-03-14,110,112,109,x\n');
    const bad = run('import.mjs', [file]);
    expect(await bad.ended).toBe(1);
    expect(bad.output()).toContain('bars, 1 rows: 1 of 1 rows are bad; nothing was imported');
    expect(bad.output()).toContain('row 2, column close: “x” is not a number');
    writeFileSync(file, 'symbol,date,open,high,low,close\nQUAY,2031-03-14,110,112,109,111\n');
    const good = run('import.mjs', [file]);
    expect(await good.ended, good.output()).toBe(0);
    expect(good.output()).toContain('bars, 1 rows: 1 added');
    const rebuilt = run('rebuild.mjs', ['QUAY']);
    expect(await rebuilt.ended, rebuilt.output()).toBe(0);
    expect(rebuilt.output()).toContain('311 snapshots derived anew by the present method');
    const none = run('import.mjs', [join(folder, 'missing.csv')]);
    expect(await none.ended).toBe(1);
    expect(none.output()).toContain('There is no file');
  });
});
