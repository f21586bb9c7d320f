import { sql } from 'drizzle-orm';
import type { Queryable } from './client';

/** A change of some rows: of which table, and of what symbol; blank for what concerns all. */
export interface Change {
  what: string;
  symbol: string;
}

/** What has changed is kept for two days: after one without a look everything is read again. */
const LONGEST_WITHOUT_LOOK_MS = 86_400_000;

/** Tells caches what has changed in the database since they were read; triggers record it. */
export class ChangeLog {
  /** Transactions before this one have been taken note of, and the changes of later ones that have been. */
  private mark: string | null = null;
  private seen = new Set<number>();
  private looked = 0;

  /** @returns what has changed since the last look; null when that cannot be told, and at the first */
  async look(session: Queryable): Promise<Change[] | null> {
    const isFirst = this.mark === null || Date.now() - this.looked > LONGEST_WITHOUT_LOOK_MS;
    const { rows } = await session.execute<{
      mark: string;
      changes: [id: string, what: string, symbol: string][] | null;
    }>(sql`
      SELECT pg_snapshot_xmin(pg_current_snapshot())::text AS mark,
        (SELECT json_agg(json_build_array(id::text, what, symbol)) FROM changes
          WHERE transaction >= ${this.mark ?? '0'}::xid8 AND ${!isFirst}) AS changes`);
    const [{ mark, changes }] = rows as [(typeof rows)[number]];
    this.looked = Date.now();
    const all = changes ?? [];
    const fresh = all.filter(([id]) => !this.seen.has(Number(id)));
    this.seen = new Set(all.map(([id]) => Number(id)));
    this.mark = mark;
    return isFirst ? null : fresh.map(([, what, symbol]) => ({ what, symbol }));
  }

  /** Forgets what has been seen: the next look is a first one. */
  reset(): void {
    this.mark = null;
    this.seen.clear();
  }
}
