import {
  createReadStream,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { createGunzip } from 'node:zlib';
import pg from 'pg';
import { ROOT } from './packages.mjs';
import { Stop } from './phases.mjs';
import { run } from './processes.mjs';

/** The form of a backup: a tar file of a manifest and a dump in PostgreSQL's directory format. */
const FORM = 1;
const MANIFEST = 'manifest.json';
const DUMP = 'dump';
const JOBS = 2;
const LINE_FEED = 10;
/** Where the database that was replaced is kept until the next time. */
const REPLACED = 'umwelt_replaced';

/**
 * What a backup says of itself.
 *
 * @typedef {{ form: number, made: string, migrations: number, tables: Record<string, number> }} Manifest
 */

/** How the programs of the database find it, without its password in their command line. @param {string} url */
function connectionOf(url) {
  const { hostname, port, username, password, pathname, searchParams } = new URL(url);
  const mode = searchParams.get('sslmode');
  return {
    ...process.env,
    PGHOST: hostname,
    PGPORT: port || '5432',
    PGUSER: decodeURIComponent(username),
    PGPASSWORD: decodeURIComponent(password),
    PGDATABASE: pathname.slice(1),
    ...(mode && { PGSSLMODE: mode }),
  };
}

/** @template T @param {string} url @param {(client: pg.Client) => Promise<T>} work @returns {Promise<T>} */
async function connected(url, work) {
  const client = new pg.Client({ connectionString: url });
  // A broken connection is reported by the query that waits.
  client.on('error', () => undefined);
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** Rows of every table, partitions one by one, as a connection sees them. @param {pg.Client} client */
async function countTables(client) {
  const { rows } = await client.query(`
    SELECT quote_ident(n.nspname) || '.' || quote_ident(c.relname) AS name FROM pg_class c
    JOIN pg_namespace n ON n.oid = c.relnamespace
    WHERE c.relkind = 'r' AND n.nspname NOT LIKE 'pg\\_%' AND n.nspname <> 'information_schema' ORDER BY 1`);
  /** @type {Record<string, number>} */
  const counts = {};
  for (const { name } of rows)
    counts[name] = Number((await client.query(`SELECT count(*) FROM ${name}`)).rows[0].count);
  return counts;
}

const migrationsKnown = () =>
  JSON.parse(readFileSync(join(ROOT, 'web/drizzle/meta/_journal.json'), 'utf8')).entries.length;

/** What differs between two counts of tables, in words; none where nothing does. */
function differences(/** @type {Record<string, number>} */ wanted, /** @type {Record<string, number>} */ found) {
  return [...new Set([...Object.keys(wanted), ...Object.keys(found)])]
    .filter((name) => wanted[name] !== found[name])
    .map((name) => `${name}: ${found[name] ?? 'no table'} instead of ${wanted[name] ?? 'no table'}`);
}

/**
 * Writes everything that a database holds at one moment into a file, while it is used, and reads it again: all rows of all
 * tables have to be in it. The file is there when it is whole.
 *
 * @param {string} programs folder of the programs of the database
 * @param {string} url
 * @param {string} path
 * @returns {Promise<{ rows: number, bytes: number }>}
 */
export async function writeBackup(programs, url, path) {
  const folder = mkdtempSync(join(dirname(path), '.umwelt-backup-'));
  const dump = join(folder, DUMP);
  try {
    const counts = await connected(url, async (client) => {
      await client.query('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY');
      const { rows } = await client.query('SELECT pg_export_snapshot() AS snapshot');
      const dumping = run(
        join(programs, 'pg_dump'),
        ['--format=directory', `--jobs=${JOBS}`, `--snapshot=${rows[0].snapshot}`, '--no-owner', `--file=${dump}`],
        { env: connectionOf(url) },
      );
      const [counted] = await Promise.all([countTables(client), dumping]);
      const migrations = await client.query('SELECT count(*)::int AS count FROM drizzle.__drizzle_migrations');
      return { tables: counted, migrations: migrations.rows[0].count };
    });
    const wrong = differences(counts.tables, await countDump(programs, dump));
    if (wrong.length > 0) throw new Stop(`The backup does not hold what the database does: ${wrong.join('; ')}`);
    /** @type {Manifest} */
    const manifest = { form: FORM, made: new Date().toISOString(), ...counts };
    writeFileSync(join(folder, MANIFEST), JSON.stringify(manifest, null, 2));
    const whole = join(folder, 'whole');
    await run('tar', ['-cf', whole, '-C', folder, MANIFEST, DUMP]);
    renameSync(whole, path);
    return { rows: sumOf(counts.tables), bytes: statSync(path).size };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const sumOf = (/** @type {Record<string, number>} */ counts) =>
  Object.values(counts).reduce((sum, count) => sum + count, 0);

/** Rows of every table in a dump: a line each. @param {string} programs @param {string} dump */
async function countDump(programs, dump) {
  const list = await run(join(programs, 'pg_restore'), ['--list', dump]);
  /** @type {Record<string, number>} */
  const counts = {};
  const quoted = (/** @type {string} */ name) => (/^[a-z_][a-z0-9_]*$/.test(name) ? name : `"${name}"`);
  for (const [, id, schema = '', table = ''] of list.matchAll(/^(\d+); \d+ \d+ TABLE DATA (\S+) (\S+) /gm)) {
    const file = readdirSync(dump).find((name) => name.startsWith(`${id}.dat`));
    if (file) counts[`${quoted(schema)}.${quoted(table)}`] = await countLines(join(dump, file));
  }
  return counts;
}

/** Lines of a packed file, without the two that close it. @param {string} path */
async function countLines(path) {
  const bytes = createReadStream(path);
  const text = path.endsWith('.gz') ? bytes.pipe(createGunzip()) : bytes;
  let lines = 0;
  for await (const chunk of text) for (const byte of chunk) if (byte === LINE_FEED) lines++;
  return lines - 3;
}

/**
 * Puts a backup in the place of a database: restored beside it, counted, brought to the present form, and only then exchanged. What
 * was there is kept as another database until the next time.
 *
 * @param {string} programs
 * @param {string} url
 * @param {string} path
 * @param {(url: string) => Promise<void>} migrate brings the tables of a database to the present state
 * @returns {Promise<{ rows: number, made: string, replaced: string }>}
 */
export async function restoreBackup(programs, url, path, migrate) {
  const folder = mkdtempSync(join(dirname(path), '.umwelt-restore-'));
  const name = new URL(url).pathname.slice(1);
  const fresh = `${name}_restored`;
  const at = (/** @type {string} */ database) => {
    const other = new URL(url);
    other.pathname = `/${database}`;
    return other.href;
  };
  const admin = (/** @type {string[]} */ ...statements) =>
    connected(at('postgres'), async (client) => {
      for (const statement of statements) await client.query(statement);
    });
  try {
    const manifest = await unpack(path, folder);
    await admin(`DROP DATABASE IF EXISTS "${fresh}" WITH (FORCE)`, `CREATE DATABASE "${fresh}" TEMPLATE template0`);
    await run(
      join(programs, 'pg_restore'),
      ['--exit-on-error', '--no-owner', `--jobs=${JOBS}`, `--dbname=${fresh}`, join(folder, DUMP)],
      { env: connectionOf(at(fresh)) },
    );
    const wrong = differences(manifest.tables, await connected(at(fresh), countTables));
    if (wrong.length > 0) throw new Stop(`What was restored is not what was saved: ${wrong.join('; ')}`);
    await migrate(at(fresh));
    const symbols = await connected(url, async (client) => {
      const { rows } = await client.query('SELECT symbol FROM underlyings');
      return rows.map(({ symbol }) => String(symbol));
    });
    await connected(at(fresh), (client) => tellAll(client, symbols));
    await admin(`DROP DATABASE IF EXISTS "${REPLACED}" WITH (FORCE)`);
    await connected(at('postgres'), (client) => exchange(client, name, fresh));
    return { rows: sumOf(manifest.tables), made: manifest.made, replaced: REPLACED };
  } catch (error) {
    await admin(`DROP DATABASE IF EXISTS "${fresh}" WITH (FORCE)`).catch(() => undefined);
    throw error;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const EXCHANGES = 50;
const IN_USE = '55006';

/**
 * Gives a database the name of another, which keeps that of what was replaced: both or neither. Whoever was connected is cut off,
 * and comes again.
 *
 * @param {pg.Client} client @param {string} name @param {string} fresh
 */
async function exchange(client, name, fresh) {
  for (let left = EXCHANGES; ; left--) {
    try {
      await client.query('BEGIN');
      await client.query('SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = $1', [name]);
      await client.query(`ALTER DATABASE "${name}" RENAME TO "${REPLACED}"`);
      await client.query(`ALTER DATABASE "${fresh}" RENAME TO "${name}"`);
      await client.query('COMMIT');
      return;
    } catch (error) {
      await client.query('ROLLBACK');
      // Somebody came in between.
      const { code } = /** @type {pg.DatabaseError} */ (error);
      if (code !== IN_USE || left === 0) throw error;
    }
  }
}

/** @param {string} path @param {string} folder @returns {Promise<Manifest>} */
async function unpack(path, folder) {
  const foreign = new Stop(`${path} is no backup of Umwelt, or is damaged.`);
  await run('tar', ['-xf', path, '-C', folder, '--no-same-owner']).catch(() => {
    throw foreign;
  });
  if (!existsSync(join(folder, MANIFEST)) || !existsSync(join(folder, DUMP))) throw foreign;
  /** @type {Manifest} */
  const manifest = JSON.parse(readFileSync(join(folder, MANIFEST), 'utf8'));
  if (manifest.form !== FORM || manifest.migrations > migrationsKnown())
    throw new Stop(`${path} was made by a later version of Umwelt than this one.`);
  return manifest;
}

/** Tells all readers that cache to read everything again. @param {pg.Client} client @param {string[]} gone symbols that may be */
async function tellAll(client, gone) {
  await client.query(
    `INSERT INTO changes (what, symbol) SELECT what, symbol
      FROM unnest(ARRAY['underlyings', 'measures', 'bars', 'dividends', 'events']) AS w (what),
        (SELECT symbol FROM underlyings UNION SELECT '' UNION SELECT unnest($1::text[])) AS s (symbol)`,
    [gone],
  );
}
