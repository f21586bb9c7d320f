import { availableParallelism } from 'node:os';
import {
  candidateFormula,
  FINDER_KINDS,
  FormulaError,
  type CandidateFormula,
  type FinderAsked,
  type Found,
  type RankAsked,
} from '@umwelt/core';
import type { Piscina } from 'piscina';
import { schemas } from '../../api';
import { measureNamed } from '../../columns';
import { ChangeLog, type Database } from '../db';
import { openPool } from '../threads';
import { screen, screenFormula } from '../market/screen';
import { listScreens } from '../market/screens';
import { listUnderlyings } from '../market/queries';
import type { HeldColumns } from '../market/held';
import type { FinderBody, FindTask, RankTask, Skipped } from './work';

const THREADS = Math.max(2, availableParallelism());
const MOST_MEGABYTES = 900;
/** Candidates that are measured of an underlying, where few are looked through and where many are. */
const MOST_OF_FEW = 150_000;
const MOST_OF_MANY = 40_000;
const FEW = 4;
/** When so many have been measured the underlyings that are left are not looked through, which is said. */
const MOST_TOGETHER = 600_000;
/** What was found is kept so long, and of so many runs, together no larger than one may be. */
const KEPT_MS = 3_600_000;
const MOST_KEPT = 8;
/** The first rows are told as soon as something is found, the next ones so often, */
const TELL_MS = 300;
/** and so many times as long apart as ordering them takes, which the threads that look through do. */
const TELL_TIMES = 5;

let pool: Piscina | null = null;
const threads = () => (pool ??= openPool('finder/finder', THREADS, MOST_MEGABYTES, { isAwaited: true }));

/** What cannot be looked for, and where that stands in the request. */
export class FinderError extends Error {
  constructor(
    readonly path: string,
    readonly reason: string,
  ) {
    super(`${path}: ${reason}`);
  }
}

/** What was found so far. */
export interface Progress {
  readonly done: number;
  readonly of: number;
}

interface Run {
  readonly found: readonly Found[];
  readonly skipped: readonly Skipped[];
  readonly until: number;
}

/** Who is told what is found on the way. */
interface Listener {
  readonly progress: (progress: Progress) => void;
  /** An answer as far as it is known. */
  readonly rows: (bytes: Uint8Array) => void;
}

/** Looks for structures over what is held. */
export class Finder {
  private readonly kept = new Map<string, Run>();
  private readonly log = new ChangeLog();

  constructor(
    private readonly database: Database,
    private readonly held: HeldColumns,
  ) {}

  /**
   * Looks for structures.
   *
   * @param signal ends it when nobody waits any more
   * @returns the answer as the JSON that is sent
   * @throws FinderError
   */
  async find(body: FinderBody, signal?: AbortSignal, listener?: Listener): Promise<Uint8Array> {
    const formulas = readConditions(body.limits);
    const symbols = await this.symbolsOf(body);
    const order = async (found: readonly Found[], skipped: readonly Skipped[]) => {
      const outside = await this.outsideOf(body, formulas, found);
      return threads().run(rankTask(body, formulas, found, skipped, outside)) as Promise<Uint8Array>;
    };
    const run = await this.look(body, symbols, signal, listener, order);
    return order(run.found, run.skipped);
  }

  private async symbolsOf({ symbols, screen: name, asof }: FinderBody): Promise<string[]> {
    const all = await listUnderlyings(this.database);
    if (name !== undefined) {
      const kept = (await listScreens(this.database)).find((one) => one.name === name);
      if (!kept) throw new FinderError('screen', `there is no kept screen called ${name}`);
      const { rows } = await screen(this.held, {
        moment: asof ? new Date(asof) : undefined,
        columns: [],
        filters: kept.filters.map((source) => screenFormula(source, 'filter')),
        isWanted: ({ kind, family }) =>
          (kept.kinds.length === 0 || kept.kinds.includes(kind)) &&
          (kept.families.length === 0 || kept.families.includes(family ?? '')),
      });
      return rows.map(({ symbol }) => symbol);
    }
    if (!symbols) return all.map(({ symbol }) => symbol);
    const known = new Set(all.map(({ symbol }) => symbol));
    const missing = symbols.findIndex((symbol) => !known.has(symbol));
    if (missing >= 0) throw new FinderError(`symbols.${missing}`, `there is no underlying ${symbols[missing]}`);
    return [...new Set(symbols)];
  }

  private async look(
    body: FinderBody,
    symbols: readonly string[],
    signal: AbortSignal | undefined,
    listener: Listener | undefined,
    order: (found: readonly Found[], skipped: readonly Skipped[]) => Promise<Uint8Array>,
  ): Promise<Run> {
    const changes = await this.log.look(this.database);
    if (changes?.length !== 0) this.kept.clear();
    const tasks = symbols.map((symbol) => findTask(this.database, body, symbol, symbols.length));
    const key = JSON.stringify(tasks);
    const known = this.kept.get(key);
    if (known && known.until > Date.now()) return known;
    const found: (Found | null)[] = symbols.map(() => null);
    const skipped: Skipped[] = [];
    let [next, done, made] = [0, 0, 0];
    let tellAfter = 0;
    let telling: Promise<void> | null = null;
    const tell = () => {
      listener?.progress({ done, of: symbols.length });
      const sofar = found.filter((one) => one !== null);
      if (!listener || telling || done === symbols.length || sofar.length === 0 || Date.now() < tellAfter) return;
      const begun = Date.now();
      telling = order(sofar, skipped)
        .then(listener.rows)
        .finally(() => {
          telling = null;
          tellAfter = Date.now() + Math.max(TELL_MS, TELL_TIMES * (Date.now() - begun));
        });
    };
    const worker = async () => {
      while (next < tasks.length) {
        signal?.throwIfAborted();
        const at = next++;
        const one: Found | Skipped =
          made < MOST_TOGETHER
            ? await threads().run(tasks[at])
            : { symbol: symbols[at]!, why: `${MOST_TOGETHER} candidates had been measured before it` };
        if ('why' in one) skipped.push(one);
        else {
          found[at] = one;
          made += one.table.count;
          // What no past is known of has no edge to it, and no score where that is weighted.
          if (one.expiries.every(({ independent }) => independent === 0))
            skipped.push({ symbol: one.symbol, why: 'too few past moves' });
        }
        done++;
        tell();
      }
    };
    await Promise.all(Array.from({ length: THREADS }, worker));
    await (telling as Promise<void> | null);
    signal?.throwIfAborted();
    const run = { found: found.filter((one) => one !== null), skipped, until: Date.now() + KEPT_MS };
    this.keep(key, run);
    return run;
  }

  /** Keeps what was found, and of what was found before as much as there is room for. */
  private keep(key: string, run: Run): void {
    this.kept.set(key, run);
    const measured = ({ found }: Run) => found.reduce((sum, { table }) => sum + table.count, 0);
    let total = [...this.kept.values()].reduce((sum, one) => sum + measured(one), 0);
    for (const [oldest, one] of this.kept) {
      if (this.kept.size <= 1 || (total <= MOST_TOGETHER && this.kept.size <= MOST_KEPT)) return;
      this.kept.delete(oldest);
      total -= measured(one);
    }
  }

  /** What formulas ask of each underlying, worked out as the Universe does. */
  private async outsideOf(
    { asof }: FinderBody,
    formulas: readonly CandidateFormula[],
    found: readonly Found[],
  ): Promise<number[][][]> {
    const sources = [...new Set(formulas.flatMap(({ outside }) => outside))];
    if (sources.length === 0) return found.map(() => formulas.map(() => []));
    const { rows } = await screen(this.held, {
      moment: asof ? new Date(asof) : undefined,
      columns: sources.map((source) => screenFormula(source, 'column')),
      filters: [],
      symbols: found.map(({ symbol }) => symbol),
    });
    const bySymbol = new Map(rows.map((row) => [row.symbol, row.columns]));
    return found.map(({ symbol }) =>
      formulas.map(({ outside }) => outside.map((source) => bySymbol.get(symbol)?.[sources.indexOf(source)] ?? NaN)),
    );
  }
}

/** Structures of all kinds within usual limits: what looking through takes is compiled by so many of them. */
const PREPARED = { kinds: [...FINDER_KINDS], days: [7, 60], legs: { delta: [0.1, 0.35] } };

/** Looks through an underlying of each kind of exercise in every thread, for nobody: the first who asks finds them warm. */
export async function prepareFinder(database: Database): Promise<void> {
  const body = schemas.FinderRequest.parse(PREPARED);
  const all = await listUnderlyings(database);
  for (const wanted of ['european', 'american']) {
    const one = all.find(({ exercise }) => exercise === wanted);
    if (!one) continue;
    const task = findTask(database, body, one.symbol, all.length);
    // As many at once as there are threads, so that each takes one.
    const found = (await Promise.all(Array.from({ length: THREADS }, () => threads().run(task)))) as (
      | Found
      | Skipped
    )[];
    const told = found.filter((result) => 'table' in result);
    await Promise.all(told.map((result) => threads().run(rankTask(body, [], [result], [], [[]]))));
  }
}

/** Reads conditions on candidates. @throws FinderError with the characters that are wrong */
export function readConditions(limits: readonly string[]): CandidateFormula[] {
  return limits.map((source, i) => {
    try {
      return candidateFormula(source, measureNamed);
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error;
      throw new FinderError(`limits.${i}`, `at character ${error.from + 1}: ${error.message}`);
    }
  });
}

function findTask(database: Database, body: FinderBody, symbol: string, count: number): FindTask {
  const { kinds, days, legs, gap, fill, fee, refused, own, ownSkew, recentred, stress, asof } = body;
  const asked: FinderAsked = {
    ...{ kinds, days, legs, gap, fill, fee, hasAll: refused, isOwnFlat: ownSkew === 'flat', hasStress: stress },
    most: count > FEW ? MOST_OF_MANY : MOST_OF_FEW,
  };
  return {
    ...{ do: 'find', url: database.$client.options.connectionString!, symbol, asked, own, isRecentred: recentred },
    moment: asof === undefined ? null : Date.parse(asof),
  };
}

function rankTask(
  body: FinderBody,
  formulas: readonly CandidateFormula[],
  found: readonly Found[],
  skipped: readonly Skipped[],
  outside: RankTask['outside'],
): RankTask {
  const { rank, top, undominated } = body;
  const asked: Omit<RankAsked, 'outside'> = {
    ...{ weights: rank, limits: [], formulas, each: top.each, per: top.per },
    ...{ isUndominated: undominated, most: top.all },
  };
  return { do: 'rank', found, body, asked, outside, skipped };
}
