import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { migrateDatabase, openDatabase, type Database } from '../../web/src/lib/server/db';

/** A database that only one test knows, and that no worker looks after unless the test starts one. */
export interface OwnDatabase {
  url: string;
  database: Database;
  remove: () => Promise<void>;
}

/** On the server of the tests; empty but for its tables. */
export async function makeDatabase(purpose: string): Promise<OwnDatabase> {
  const name = `umwelt_${purpose}_${process.pid}`;
  const at = (database: string) => {
    const url = new URL(process.env.API_DATABASE_URL ?? '');
    url.pathname = `/${database}`;
    return url.href;
  };
  const admin = async (statement: string) => {
    const client = new pg.Client({ connectionString: at('postgres') });
    await client.connect();
    await client.query(statement).finally(() => client.end());
  };
  await admin(`CREATE DATABASE ${name}`);
  const database = openDatabase(at(name));
  await migrateDatabase(database, fileURLToPath(new URL('../../web/drizzle', import.meta.url)));
  return {
    url: at(name),
    database,
    async remove() {
      await database.$client.end();
      await admin(`DROP DATABASE ${name} WITH (FORCE)`);
    },
  };
}
