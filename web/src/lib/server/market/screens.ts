import { asc, eq } from 'drizzle-orm';
import { tables, type Queryable } from '../db';

const { screens } = tables;

/** Screens that are kept, by name. */
export function listScreens(database: Queryable) {
  return database.select().from(screens).orderBy(asc(screens.name));
}

/** Keeps a screen; one of the same name is replaced. */
export async function keepScreen(
  database: Queryable,
  screen: Omit<typeof screens.$inferInsert, 'id' | 'changed'>,
): Promise<void> {
  const kept = { ...screen, changed: new Date() };
  await database.insert(screens).values(kept).onConflictDoUpdate({ target: screens.name, set: kept });
}

/** Lets go of a screen; false where there is none. */
export async function dropScreen(database: Queryable, id: number): Promise<boolean> {
  const gone = await database.delete(screens).where(eq(screens.id, id)).returning({ id: screens.id });
  return gone.length > 0;
}
