import { calendarById, dayOf, isSession, nextSession } from '@umwelt/core';
import { sql } from 'drizzle-orm';
import type { Queryable } from '../db';
import { listUnderlyings } from './queries';

/** What is held, by underlying and session. */
export interface Holdings {
  sessions: string[];
  underlyings: {
    symbol: string;
    name: string;
    moments: number[];
    contracts: number[];
    usable: number[];
    quality: (number | null)[];
    holes: string[];
    bars: number;
    prints: number;
  }[];
}

interface HeldRow extends Record<string, unknown> {
  symbol: string;
  at: number[];
  contracts: number[];
  usable: number[];
  quality: (number | null)[];
}

/** Everything that is held, on the sessions between the first day and the last. */
export async function holdings(database: Queryable): Promise<Holdings> {
  const [all, held, bars, prints] = await Promise.all([
    listUnderlyings(database),
    database.execute<HeldRow>(sql`
      SELECT symbol, array_agg(extract(epoch FROM asof)::float8 ORDER BY asof) AS at,
        array_agg(contracts ORDER BY asof) AS contracts, array_agg(usable ORDER BY asof) AS usable,
        array_agg(quality ORDER BY asof) AS quality
      FROM measures GROUP BY symbol`),
    countBySymbol(database, 'bars'),
    countBySymbol(database, 'prints'),
  ]);
  const rowOf = new Map(held.rows.map((row) => [row.symbol, row]));
  const days = new Map(
    all.map(({ symbol, calendar }) => [
      symbol,
      (rowOf.get(symbol)?.at ?? []).map((seconds) => dayOf(calendarById(calendar), 1000 * seconds)),
    ]),
  );
  const sessions = sessionsOf([...days.values()].flat(), all[0]?.calendar ?? null);
  const position = new Map(sessions.map((day, i) => [day, i]));
  return {
    sessions,
    underlyings: all.map(({ symbol, name, calendar }) => {
      const row = rowOf.get(symbol);
      const own = days.get(symbol)!;
      const column = () => new Array<number>(sessions.length).fill(0);
      const [moments, contracts, usable] = [column(), column(), column()];
      const quality = new Array<number | null>(sessions.length).fill(null);
      own.forEach((day, i) => {
        const at = position.get(day);
        if (at === undefined) return;
        moments[at]!++;
        contracts[at] = row!.contracts[i]!;
        usable[at] = row!.usable[i]!;
        quality[at] = row!.quality[i]!;
      });
      const [first, last] = [own[0] ?? '', own.at(-1) ?? ''];
      const isOpen = (day: string) => isSession(calendarById(calendar), day);
      return {
        symbol,
        name,
        moments,
        contracts,
        usable,
        quality,
        holes: sessions.filter((day, i) => day > first && day < last && moments[i] === 0 && isOpen(day)),
        bars: bars.get(symbol) ?? 0,
        prints: prints.get(symbol) ?? 0,
      };
    }),
  };
}

/** The sessions from the first of some days to the last, and those days that are none. */
function sessionsOf(days: readonly string[], calendarId: string | null): string[] {
  const sorted = [...new Set(days)].sort();
  const found = new Set(sorted);
  const calendar = calendarById(calendarId);
  const last = sorted.at(-1);
  for (let day = sorted[0]; day !== undefined && last !== undefined && day <= last; day = nextSession(calendar, day)) {
    found.add(day);
  }
  return [...found].sort();
}

async function countBySymbol(database: Queryable, table: 'bars' | 'prints'): Promise<Map<string, number>> {
  const { rows } = await database.execute<{ symbol: string; count: number }>(
    sql`SELECT symbol, count(*)::int AS count FROM ${sql.identifier(table)} GROUP BY symbol`,
  );
  return new Map(rows.map(({ symbol, count }) => [symbol, count]));
}
