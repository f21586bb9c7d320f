import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';

export type ScreenAnswer = z.infer<typeof schemas.ScreenResponse>;
export type ScreenRow = ScreenAnswer['rows'][number];
type Request = z.input<typeof schemas.ScreenRequest>;

/** Formulas over all underlyings at a moment; null is the latest. */
export function askScreen(asof: string | null, request: Omit<Request, 'asof'>): Promise<ScreenAnswer> {
  return call('POST /screen', { body: { ...(asof ? { asof } : {}), ...request } });
}

/** What was computed, to be read by formula. */
export class ScreenValues {
  private readonly at: ReadonlyMap<string, number>;

  constructor(readonly answer: ScreenAnswer) {
    this.at = new Map(answer.columns.map(({ formula }, i) => [formula, i]));
  }

  /** The value of a formula; null where it is not known or was not asked for. */
  of({ columns }: Pick<ScreenRow, 'columns'>, formula: string): number | null {
    const at = this.at.get(formula);
    return at === undefined ? null : (columns[at] ?? null);
  }

  /** How many a condition alone leaves out. */
  removed(formula: string): number | null {
    return this.answer.filters.find((one) => one.formula === formula)?.removed ?? null;
  }
}
