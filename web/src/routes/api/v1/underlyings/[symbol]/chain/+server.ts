import { calendarById, namedVol, type ExpiryId } from '@umwelt/core';
import type { z } from 'zod';
import { schemas } from '$lib/api';
import * as api from '$lib/api/snapshots/endpoints';
import { ApiError, csvAnswer, jsonAnswer, notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import {
  adjusted,
  barsKnownAt,
  listAdjustments,
  listBars,
  USUAL_VOL,
  valued,
  volByBar,
  type Underlying,
} from '$lib/server/market';
import { handleOfSymbol, requestedSnapshot } from '../lookup';

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

/** The latest historical vol that was known at an instant; NaN where there is none. */
async function realizedAt({ symbol, calendar }: Underlying, instant: number, volName: string): Promise<number> {
  const [bars, steps] = await Promise.all([listBars(database(), symbol), listAdjustments(database(), [symbol])]);
  const known = barsKnownAt(bars, calendarById(calendar), instant);
  return volByBar(adjusted(bars.slice(0, known), steps.get(symbol) ?? []), volName).at(-1) ?? NaN;
}

export const GET = handleOfSymbol(api.chain, async ({ path, query }) => {
  const { expiry, settlement, basis = 'curve', format, layout = 'rows' } = query;
  const manual = manualOf(query);
  const volName = volNameOf(query.hv);
  const { underlying, stored } = await requestedSnapshot(path, query);
  const realizedVol = basis === 'realized' ? await realizedAt(underlying, stored.snapshot.asof, volName) : NaN;
  const indexVol = (stored.measures.varianceIndex ?? NaN) / 100;
  const isMeant = (one: ExpiryId) =>
    (expiry === undefined || one.expiry === expiry) && (settlement === undefined || one.settlement === settlement);
  const slices = stored.snapshot.slices.filter(isMeant);
  if (slices.length === 0 && (expiry ?? settlement) !== undefined) {
    const name = [expiry, settlement].filter(Boolean).join(' ');
    throw notFound(`${underlying.symbol} has no expiry ${name} in this snapshot`);
  }
  const choice = { basis, realizedVol, indexVol, manual };
  const bytes = await valued({
    kind: 'chain',
    underlying,
    stored: { ...stored, snapshot: { ...stored.snapshot, slices } },
    choice,
    layout,
  });
  if (format !== 'csv') return jsonAnswer(bytes);
  // As it was written, with what does not exist as null.
  const { contracts } = JSON.parse(Buffer.from(bytes).toString('utf8')) as { contracts: Record<string, unknown>[] };
  return csvAnswer('contracts', Object.keys(contracts[0] ?? schemas.ChainContract.shape), contracts);
});
