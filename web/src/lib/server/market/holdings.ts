import { calendarById, dayOf, isSession, nextSession } from '@umwelt/core';
import { sql, type SQL } from 'drizzle-orm';
import { atOneMoment, ChangeLog, type Database, type Session } from '../db';
import { listUnderlyings } from './queries';
import type { Underlying } from './terms';

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

/** What is held of one underlying: of each moment its session. */
interface HeldOf {
  days: string[];
  contracts: number[];
  usable: number[];
  quality: (number | null)[];
  bars: number;
  prints: number;
}

const NOTHING: HeldOf = { days: [], contracts: [], usable: [], quality: [], bars: 0, prints: 0 };

/** Counts of everything that is held, kept in memory: only what has changed since is counted again. */
export class HoldingsCounts {
  private readonly log = new ChangeLog();
  private readonly counts = new Map<string, HeldOf>();
  private last: Promise<unknown> = Promise.resolve();

  constructor(private readonly database: Database) {}

  /** Everything that is held, on the sessions between the first day and the last. */
  async holdings(): Promise<Holdings> {
    const all = this.last
      .catch(() => undefined)
      .then(() => atOneMoment(this.database, (session) => this.refresh(session)));
    this.last = all;
    return holdingsOf(await all, this.counts);
  }

  private async refresh(session: Session): Promise<Underlying[]> {
    const changes = await this.log.look(session);
    const all = await listUnderlyings(session);
    if (!changes) this.counts.clear();
    for (const { symbol } of changes ?? []) this.counts.delete(symbol);
    const missing = all.filter(({ symbol }) => !this.counts.has(symbol));
    if (missing.length === 0) return all;
    try {
      await this.count(session, missing);
    } catch (error) {
      this.log.reset();
      throw error;
    }
    return all;
  }

  private async count(session: Session, which: readonly Underlying[]): Promise<void> {
    const symbols = sql`${sql.param(which.map(({ symbol }) => symbol))}::text[]`;
    const held = await session.execute<HeldRow>(sql`
      SELECT symbol, array_agg(extract(epoch FROM asof)::float8 ORDER BY asof) AS at,
        array_agg(contracts ORDER BY asof) AS contracts, array_agg(usable ORDER BY asof) AS usable,
        array_agg(quality ORDER BY asof) AS quality
      FROM measures WHERE symbol = ANY(${symbols}) GROUP BY symbol`);
    const rowOf = new Map(held.rows.map((row) => [row.symbol, row]));
    const bars = await countBySymbol(session, 'bars', symbols);
    const prints = await countBySymbol(session, 'prints', symbols);
    for (const { symbol, calendar } of which) {
      const { at = [], contracts = [], usable = [], quality = [] } = rowOf.get(symbol) ?? {};
      const days = at.map((seconds) => dayOf(calendarById(calendar), 1000 * seconds));
      const counts = { bars: bars.get(symbol) ?? 0, prints: prints.get(symbol) ?? 0 };
      this.counts.set(symbol, { days, contracts, usable, quality, ...counts });
    }
  }
}

interface HeldRow extends Record<string, unknown> {
  symbol: string;
  at: number[];
  contracts: number[];
  usable: number[];
  quality: (number | null)[];
}

function holdingsOf(all: readonly Underlying[], counts: ReadonlyMap<string, HeldOf>): Holdings {
  const of = ({ symbol }: Underlying) => counts.get(symbol) ?? NOTHING;
  const sessions = sessionsOf(
    all.flatMap((underlying) => of(underlying).days),
    all[0]?.calendar ?? null,
  );
  const position = new Map(sessions.map((day, i) => [day, i]));
  return {
    sessions,
    underlyings: all.map((underlying) => {
      const { symbol, name, calendar } = underlying;
      const { days, bars, prints, ...held } = of(underlying);
      const column = () => new Array<number>(sessions.length).fill(0);
      const [moments, contracts, usable] = [column(), column(), column()];
      const quality = new Array<number | null>(sessions.length).fill(null);
      days.forEach((day, i) => {
        const at = position.get(day);
        if (at === undefined) return;
        moments[at]!++;
        contracts[at] = held.contracts[i]!;
        usable[at] = held.usable[i]!;
        quality[at] = held.quality[i]!;
      });
      const [first, last] = [days[0] ?? '', days.at(-1) ?? ''];
      const isOpen = (day: string) => isSession(calendarById(calendar), day);
      return {
        symbol,
        name,
        moments,
        contracts,
        usable,
        quality,
        holes: sessions.filter((day, i) => day > first && day < last && moments[i] === 0 && isOpen(day)),
        bars,
        prints,
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

async function countBySymbol(session: Session, table: 'bars' | 'prints', symbols: SQL): Promise<Map<string, number>> {
  const { rows } = await session.execute<{ symbol: string; count: number }>(
    sql`SELECT symbol, count(*)::int AS count FROM ${sql.identifier(table)} WHERE symbol = ANY(${symbols}) GROUP BY symbol`,
  );
  return new Map(rows.map(({ symbol, count }) => [symbol, count]));
}
