import { calendarById, namedVol } from '@umwelt/core';
import type { z } from 'zod';
import { ApiError, listAnswer, notFound, readQuery, schemas } from '$lib/server/api';
import { database } from '$lib/server/database';
import {
  adjusted,
  barsKnownAt,
  chainAnswer,
  listAdjustments,
  listBars,
  USUAL_VOL,
  volByBar,
  type Underlying,
} from '$lib/server/market';
import { keptEndpoint, requestedSnapshot } from '../lookup';
import type { RequestEvent } from './$types';

const fault = (path: string, message: string) =>
  new ApiError(400, 'Invalid input', `${path}: ${message}`, { errors: [{ path, message }] });

/** What is typed in place of a vol. */
function manualOf({ basis, vol, shift }: Pick<z.infer<typeof schemas.ChainQuery>, 'basis' | 'vol' | 'shift'>) {
  if (vol !== undefined) return { kind: 'vol', value: vol } as const;
  if (shift !== undefined) return { kind: 'shift', value: shift } as const;
  if (basis === 'manual') throw fault('vol', 'manual needs vol or shift');
  return undefined;
}

/** The name of the historical vol that is asked for. */
function volNameOf(name: string | undefined): string {
  if (name !== undefined && !namedVol(name)) throw fault('hv', `there is no historical vol ${name}`);
  return name ?? USUAL_VOL;
}

/** Rows as a list for each of their fields. */
function columnsOf<Row extends object>(rows: readonly Row[]): Record<string, unknown[]> {
  const names = Object.keys(rows[0] ?? {}) as (keyof Row & string)[];
  return Object.fromEntries(names.map((name) => [name, rows.map((row) => row[name])]));
}

/** The latest historical vol that was known at an instant; NaN where there is none. */
async function realizedAt({ symbol, calendar }: Underlying, instant: number, volName: string): Promise<number> {
  const [bars, steps] = await Promise.all([listBars(database(), symbol), listAdjustments(database(), [symbol])]);
  const known = barsKnownAt(bars, calendarById(calendar), instant);
  return volByBar(adjusted(bars.slice(0, known), steps.get(symbol) ?? []), volName).at(-1) ?? NaN;
}

export const GET = keptEndpoint(async (event: RequestEvent) => {
  const query = readQuery(event, schemas.ChainQuery);
  const { expiry, basis = 'curve', format, layout } = query;
  const manual = manualOf(query);
  const volName = volNameOf(query.hv);
  const { underlying, stored } = await requestedSnapshot(event);
  const realizedVol = basis === 'realized' ? await realizedAt(underlying, stored.snapshot.asof, volName) : NaN;
  const indexVol = (stored.measures.varianceIndex ?? NaN) / 100;
  const answer = chainAnswer(underlying, stored, { basis, realizedVol, indexVol, manual }, expiry);
  if (expiry && answer.expiries.length === 0)
    throw notFound(`${underlying.symbol} has no expiry ${expiry} in this snapshot`);
  if (format === 'csv') return listAnswer(event, 'contracts', schemas.ChainResponse.shape.contracts, answer.contracts);
  return layout === 'columns' ? { ...answer, contracts: columnsOf(answer.contracts) } : answer;
});
