import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';
import { snapshotOfAnswer, type LoadedSnapshot, type Summary } from './snapshot';

export type UniverseRow = z.infer<typeof schemas.UnderlyingMeasures>;
export type HistoryRow = { date: string; asof: string | null } & Record<string, number | null | string>;
export type MarketEvent = z.infer<typeof schemas.EventsResponse>['events'][number];

/** What is loaded of one underlying and does not depend on the moment in view. */
export interface Market {
  symbol: string;
  snapshots: Summary[];
  history: HistoryRow[];
  events: MarketEvent[];
}

const CACHES: Map<string, unknown>[] = [];

/** Keeps the answers of a loader by name, the latest used at the end; a failure is not kept. */
function remembered<T>(most: number, load: (name: string) => Promise<T>): (name: string) => Promise<T> {
  const answers = new Map<string, Promise<T>>();
  CACHES.push(answers);
  return (name) => {
    const known = answers.get(name);
    const answer = known ?? load(name);
    answers.delete(name);
    answers.set(name, answer);
    if (!known) answer.catch(() => answers.delete(name));
    for (const key of answers.keys()) if (answers.size > most) answers.delete(key);
    return answer;
  };
}

/** Forgets what was loaded, after the data have changed. */
export function forgetLoaded(): void {
  for (const cache of CACHES) cache.clear();
}

const universeByMoment = remembered(64, async (asof) => {
  const { underlyings } = await call('GET /underlyings', { query: { asof: asof || null } });
  return underlyings;
});

const summariesBySymbol = remembered(32, async (symbol) => {
  const { snapshots } = await call('GET /underlyings/{symbol}/snapshots', { path: { symbol } });
  return snapshots;
});

const marketBySymbol = remembered(8, async (symbol): Promise<Market> => {
  const path = { symbol };
  const [snapshots, { rows }, { events }] = await Promise.all([
    summariesBySymbol(symbol),
    call('GET /underlyings/{symbol}/history', { path }),
    call('GET /underlyings/{symbol}/events', { path }),
  ]);
  return { symbol, snapshots, history: rows, events };
});

const snapshotByName = remembered(96, async (name): Promise<LoadedSnapshot> => {
  const [symbol = '', asof = ''] = name.split(' ');
  return snapshotOfAnswer(await call('GET /underlyings/{symbol}/snapshots/{asof}', { path: { symbol, asof } }));
});

/** All underlyings at a moment; null is the latest. */
export const loadUniverse = (asof: string | null) => universeByMoment(asof ?? '');
/** Measures of every moment that is held of an underlying. */
export const loadSummaries = (symbol: string) => summariesBySymbol(symbol);
/** What does not depend on the moment. */
export const loadMarket = (symbol: string) => marketBySymbol(symbol);
/** A snapshot that is known to be held. */
export const loadSnapshot = (symbol: string, asof: string) => snapshotByName(`${symbol} ${asof}`);

export type Task = z.infer<typeof schemas.TaskRecord>;

/** Tasks, the latest first; null where there is no answer. */
export async function loadTasks(): Promise<Task[] | null> {
  const answer = await call('GET /tasks').catch(() => null);
  return answer?.tasks ?? null;
}

/** Whether a task waits or runs. */
export function isRunning({ status }: Task): boolean {
  return status === 'queued' || status === 'running';
}

/** Whether data have changed between two looks at the tasks: one has ended, or an underlying of the demo is complete. */
export function hasBrought(before: readonly Task[], now: readonly Task[]): boolean {
  return before.filter(isRunning).some((old) => {
    const task = now.find(({ id }) => id === old.id);
    return (
      task !== undefined &&
      task.kind !== 'export' &&
      (!isRunning(task) || (task.kind === 'demo' && task.done !== old.done))
    );
  });
}

/** What an expiry borrows its curve from. */
export type BorrowingRequest = z.input<typeof schemas.BorrowingRequest>;

/** Lets an expiry borrow its curve, or gives it its own one back. */
export async function sendBorrowing(symbol: string, request: BorrowingRequest): Promise<void> {
  await call('POST /underlyings/{symbol}/borrowings', { path: { symbol }, body: request });
}

/** What somebody decides about a contract of a snapshot, or without strike and side about a whole expiry. */
export type ExclusionRequest = z.input<typeof schemas.ExclusionRequest>;

/** Sets a contract or an expiry aside, or takes it back into use. */
export async function sendExclusion(symbol: string, exclusion: ExclusionRequest): Promise<void> {
  await call('POST /underlyings/{symbol}/verdicts', { path: { symbol }, body: exclusion });
}
