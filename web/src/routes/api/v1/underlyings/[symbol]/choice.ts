import { calendarById, namedVol, type BasisChoice, type Basis } from '@umwelt/core';
import { ApiError } from '$lib/server/api';
import { database } from '$lib/server/database';
import {
  adjusted,
  barsKnownAt,
  listAdjustments,
  listBars,
  USUAL_VOL,
  volByBar,
  type Bar,
  type StoredSnapshot,
  type Underlying,
} from '$lib/server/market';

/** What a caller says of the vol that contracts are valued by. */
export interface ChoiceAsked {
  basis: Basis;
  vol?: number | undefined;
  shift?: number | undefined;
  hv?: string | undefined;
}

const fault = (path: string, message: string) =>
  new ApiError(400, 'Invalid input', `${path}: ${message}`, { errors: [{ path, message }] });

/** What is typed in place of a vol. */
function manualOf({ basis, vol, shift }: ChoiceAsked) {
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

/** The bars that were known at an instant, without the steps of dividends and splits. */
export async function barsAt({ symbol, calendar }: Underlying, instant: number): Promise<Bar[]> {
  const [bars, steps] = await Promise.all([listBars(database(), symbol), listAdjustments(database(), [symbol])]);
  return adjusted(bars.slice(0, barsKnownAt(bars, calendarById(calendar), instant)), steps.get(symbol) ?? []);
}

/**
 * The vols that contracts of a snapshot are valued by.
 *
 * @param bars known by then, where they are at hand; else they are read where the basis needs them
 * @throws ApiError 400
 */
export async function choiceOf(
  asked: ChoiceAsked,
  underlying: Underlying,
  { snapshot, measures }: StoredSnapshot,
  bars?: readonly Bar[],
): Promise<BasisChoice> {
  const { basis } = asked;
  const manual = manualOf(asked);
  const volName = volNameOf(asked.hv);
  const known = bars ?? (basis === 'realized' ? await barsAt(underlying, snapshot.asof) : []);
  const realizedVol = volByBar(known, volName).at(-1) ?? NaN;
  return { basis, manual, realizedVol, indexVol: (measures.varianceIndex ?? NaN) / 100 };
}
