import type { FinderAsked, Found, VolModel, RankAsked } from '@umwelt/core';
import type { schemas } from '../../api';
import type { z } from 'zod';

/** What is looked for, as it was asked. */
export type FinderBody = z.output<typeof schemas.FinderRequest>;

/** Looks through one underlying. */
export interface FindTask {
  readonly do: 'find';
  readonly url: string;
  readonly symbol: string;
  /** Epoch milliseconds; null for the latest. */
  readonly moment: number | null;
  /** Its fee is in money; it becomes one for a unit where the multiplier is known. */
  readonly asked: FinderAsked;
  readonly own: VolModel | number;
  readonly isRecentred: boolean;
}

/** Orders what was found. */
export interface RankTask {
  readonly do: 'rank';
  readonly found: readonly Found[];
  readonly body: FinderBody;
  readonly asked: Omit<RankAsked, 'outside'>;
  /** Values of what formulas ask of underlyings: by the place of the one found, formula and part. */
  readonly outside: readonly (readonly (readonly number[])[])[];
  /** What is said of the run beside the rows. */
  readonly skipped: readonly Skipped[];
}

/** An underlying without candidates, and why. */
export interface Skipped {
  readonly symbol: string;
  readonly why: string;
}
