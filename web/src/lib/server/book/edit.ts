import { and, desc, eq, getTableColumns, getTableName, sql, type SQL } from 'drizzle-orm';
import { inTransaction, tables, type Database, type Queryable, type Session } from '../db';
import type { BookTable, RowImage } from '../db/book-schema';
import { ConflictError, StateError } from '../errors';

const { BOOK_TABLES, bookChanges } = tables;

const BOOK_LOCK = 4898;

/** Whoever changes a book holds its lock until the end of the transaction. */
async function lockBook(session: Queryable, bookId: number): Promise<void> {
  await session.execute(sql`SELECT pg_advisory_xact_lock(${BOOK_LOCK}, ${bookId})`);
}

/** A row as an image: its numbers as texts, since exact ones have more digits than a number of the program. */
export const imageOf = (row: SQL): SQL => sql`
  (SELECT jsonb_object_agg(key, CASE WHEN jsonb_typeof(value) = 'number' THEN to_jsonb(value #>> '{}') ELSE value END)
    FROM jsonb_each(to_jsonb(${row})))`;

const nameOf = (table: BookTable): SQL => sql`${sql.identifier(getTableName(BOOK_TABLES[table]))}`;

/** Without what every change moves on. */
function compared(image: Record<string, unknown> | null): string | null {
  if (image === null) return null;
  const { version: _, ...rest } = image;
  return JSON.stringify(rest);
}

/** Writes rows of a book, and remembers what they were. */
export class BookEdit {
  readonly images: RowImage[] = [];

  constructor(readonly session: Session) {}

  private async image(table: BookTable, id: number): Promise<Record<string, unknown> | null> {
    const { rows } = await this.session.execute<{ image: Record<string, unknown> }>(
      sql`SELECT ${imageOf(sql`t`)} AS image FROM ${nameOf(table)} t WHERE t.id = ${id}`,
    );
    return rows[0]?.image ?? null;
  }

  /** @returns the id of the new row */
  async insert<T extends BookTable>(table: T, values: (typeof BOOK_TABLES)[T]['$inferInsert']): Promise<number> {
    const target = BOOK_TABLES[table];
    const [row] = await this.session
      .insert(target)
      .values(values as never)
      .returning({ id: target.id });
    const { id } = row!;
    this.images.push({ table, id, before: null, after: await this.image(table, id) });
    return id;
  }

  /**
   * Changes a row.
   *
   * @param seen the version that whoever changes it has seen
   * @throws ConflictError where it is another by now; StateError where it is gone
   */
  async update<T extends BookTable>(
    table: T,
    id: number,
    seen: number,
    change: Partial<(typeof BOOK_TABLES)[T]['$inferInsert']>,
    what: string,
  ): Promise<void> {
    const target = BOOK_TABLES[table];
    const before = await this.image(table, id);
    if (!before) throw new StateError(`${what} is gone`);
    if (Number(before.version) !== seen) throw new ConflictError(what, before);
    await this.session
      .update(target)
      .set({ ...change, version: sql`${target.version} + 1` } as never)
      .where(eq(target.id, id));
    this.images.push({ table, id, before, after: await this.image(table, id) });
  }

  async remove(table: BookTable, id: number): Promise<void> {
    const before = await this.image(table, id);
    if (!before) return;
    await this.session.delete(BOOK_TABLES[table]).where(eq(BOOK_TABLES[table].id, id));
    this.images.push({ table, id, before, after: null });
  }

  /** Puts a row back from one image to another. @throws StateError where it is not what it was */
  private async turn({ table, id }: RowImage, from: RowImage['before'], to: RowImage['before']): Promise<void> {
    const now = await this.image(table, id);
    if (compared(now) !== compared(from))
      throw new StateError('it has been changed since: undo what came after it first');
    const target = nameOf(table);
    if (to === null) {
      await this.session.execute(sql`DELETE FROM ${target} WHERE id = ${id}`);
      return;
    }
    const row = sql`jsonb_populate_record(NULL::${target}, ${JSON.stringify(to)}::jsonb)`;
    if (from === null) {
      await this.session.execute(sql`INSERT INTO ${target} SELECT * FROM ${row}`);
      return;
    }
    const columns = Object.values(getTableColumns(BOOK_TABLES[table])).map(({ name }) => sql.identifier(name));
    const list = sql.join(columns, sql`, `);
    await this.session.execute(sql`UPDATE ${target} SET (${list}) = (SELECT ${list} FROM ${row}) WHERE id = ${id}`);
    // Whoever has seen the version before must not take this one for it.
    const version = Number(now!.version) + 1;
    await this.session.execute(sql`UPDATE ${target} SET version = ${version} WHERE id = ${id}`);
  }

  /** Takes rows back to what they were before a change. */
  async back(images: readonly RowImage[]): Promise<void> {
    for (const image of [...images].reverse()) await this.turn(image, image.after, image.before);
  }

  /** And makes them what they were after it again. */
  async forth(images: readonly RowImage[]): Promise<void> {
    for (const image of images) await this.turn(image, image.before, image.after);
  }
}

/**
 * Changes a book in one transaction, with its line in the journal: all of it, or nothing.
 *
 * @param bookId null for a book that the work makes
 * @param work returns the book and what the change is called, beside its answer
 */
export function changeBook<T>(
  database: Database,
  bookId: number | null,
  work: (edit: BookEdit) => Promise<{ bookId: number; words: string; answer: T }>,
): Promise<T> {
  return inTransaction(database, async (session) => {
    if (bookId !== null) await lockBook(session, bookId);
    const edit = new BookEdit(session);
    const done = await work(edit);
    if (edit.images.length > 0)
      await session.insert(bookChanges).values({ bookId: done.bookId, words: done.words, rows: edit.images });
    return done.answer;
  });
}

/** The last change of a book that holds, and the first that was undone after it. */
export async function changesAt(session: Queryable, bookId: number) {
  const [last] = await session
    .select()
    .from(bookChanges)
    .where(and(eq(bookChanges.bookId, bookId), eq(bookChanges.isUndone, false)))
    .orderBy(desc(bookChanges.id))
    .limit(1);
  const [next] = await session
    .select()
    .from(bookChanges)
    .where(
      and(eq(bookChanges.bookId, bookId), eq(bookChanges.isUndone, true), sql`${bookChanges.id} > ${last?.id ?? 0}`),
    )
    .orderBy(bookChanges.id)
    .limit(1);
  return { last: last ?? null, next: next ?? null };
}

/**
 * Undoes the last change of a book, or makes the one that was undone last again.
 *
 * @returns what it was, in words
 * @throws StateError where there is none, or where its rows are others by now
 */
export function turnChange(database: Database, bookId: number, way: 'undo' | 'redo'): Promise<string> {
  return inTransaction(database, async (session) => {
    await lockBook(session, bookId);
    const { last, next } = await changesAt(session, bookId);
    const change = way === 'undo' ? last : next;
    if (!change) throw new StateError(way === 'undo' ? 'nothing is left to be undone' : 'nothing has been undone');
    const edit = new BookEdit(session);
    await (way === 'undo' ? edit.back(change.rows) : edit.forth(change.rows));
    await session
      .update(bookChanges)
      .set({ isUndone: way === 'undo' })
      .where(eq(bookChanges.id, change.id));
    return change.words;
  });
}
