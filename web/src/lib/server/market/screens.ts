import { asc, eq, sql } from 'drizzle-orm';
import { tables, type Queryable } from '../db';
import { ConflictError } from '../errors';

const { screens } = tables;

/** Screens that are kept, by name. */
export async function listScreens(database: Queryable) {
  const rows = await database.select().from(screens).orderBy(asc(screens.name));
  return rows.map(({ changed, ...row }) => ({ ...row, changed: changed.toISOString() }));
}

/**
 * Keeps a screen, or changes the one of its name.
 *
 * @param seen the version of that which is to be changed; null for a new one
 * @throws ConflictError where there is one already that is another
 */
export async function keepScreen(
  database: Queryable,
  screen: Omit<typeof screens.$inferInsert, 'id' | 'changed' | 'version'>,
  seen: number | null,
): Promise<void> {
  const kept = { ...screen, changed: new Date() };
  const rows = await database
    .insert(screens)
    .values(kept)
    .onConflictDoUpdate({
      target: screens.name,
      set: { ...kept, version: sql`${screens.version} + 1` },
      setWhere: sql`${screens.version} = ${seen}`,
    })
    .returning({ id: screens.id });
  if (rows.length > 0) return;
  const [now] = await database.select().from(screens).where(eq(screens.name, screen.name));
  if (now) throw new ConflictError(`the screen “${screen.name}”`, { ...now, changed: now.changed.toISOString() });
  await keepScreen(database, screen, seen);
}

/** Deletes a screen; false where there is none. */
export async function dropScreen(database: Queryable, id: number): Promise<boolean> {
  const gone = await database.delete(screens).where(eq(screens.id, id)).returning({ id: screens.id });
  return gone.length > 0;
}
