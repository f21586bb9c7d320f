import { DEMO_VERSION } from '@umwelt/demo';
import { eq, like } from 'drizzle-orm';
import { tables, type Database, type Queryable } from './db';

const { settings } = tables;
const ALL = 'demo';

/**
 * Whether the database holds this version of the demo: whole, or the underlyings that are wanted.
 *
 * @param wanted symbols; all when not given
 */
export async function isDemoHeld(database: Database, wanted?: readonly string[]): Promise<boolean> {
  const [held] = await database.select().from(settings).where(eq(settings.key, ALL));
  if (held?.value === String(DEMO_VERSION)) return true;
  if (!wanted) return false;
  const symbols = await demoSymbols(database);
  return wanted.every((symbol) => symbols.has(symbol));
}

/** The underlyings of this version of the demo that are complete. */
export async function demoSymbols(database: Queryable): Promise<Set<string>> {
  const rows = await database
    .select()
    .from(settings)
    .where(like(settings.key, `${ALL} %`));
  return new Set(
    rows.filter(({ value }) => value === String(DEMO_VERSION)).map(({ key }) => key.slice(ALL.length + 1)),
  );
}

/** Remembers that an underlying of this version of the demo is complete; without a symbol the whole of it. */
export async function rememberDemo(database: Database, symbol?: string): Promise<void> {
  const key = symbol === undefined ? ALL : `${ALL} ${symbol}`;
  const row = { key, value: String(DEMO_VERSION), changed: Date.now() };
  await database.insert(settings).values(row).onConflictDoUpdate({ target: settings.key, set: row });
}
