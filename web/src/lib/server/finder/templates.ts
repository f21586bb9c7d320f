import { asc, eq, sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { schemas } from '../../api';
import { tables, type Queryable } from '../db';
import { ConflictError } from '../errors';

const { templates } = tables;

type Asked = z.output<typeof schemas.TemplateRequest>['asked'];

const told = ({ asked, changed, ...row }: typeof templates.$inferSelect) => ({
  ...row,
  // It was checked when it was kept.
  asked: asked as Asked,
  changed: changed.toISOString(),
});

/** Templates that are kept, by name. */
export async function listTemplates(database: Queryable) {
  return (await database.select().from(templates).orderBy(asc(templates.name))).map(told);
}

/**
 * Keeps a template, or changes the one of its name.
 *
 * @param seen the version of that which is to be changed; null for a new one
 * @throws ConflictError where there is one already that is another
 */
export async function keepTemplate(
  database: Queryable,
  name: string,
  asked: Asked,
  seen: number | null,
): Promise<void> {
  const kept = { name, asked, changed: new Date() };
  const rows = await database
    .insert(templates)
    .values(kept)
    .onConflictDoUpdate({
      target: templates.name,
      set: { ...kept, version: sql`${templates.version} + 1` },
      setWhere: sql`${templates.version} = ${seen}`,
    })
    .returning({ id: templates.id });
  if (rows.length > 0) return;
  const [now] = await database.select().from(templates).where(eq(templates.name, name));
  throw new ConflictError(`the template “${name}”`, now ? told(now) : { name });
}

/** Deletes a template; false where there is none. */
export async function dropTemplate(database: Queryable, id: number): Promise<boolean> {
  return (await database.delete(templates).where(eq(templates.id, id)).returning({ id: templates.id })).length > 0;
}
