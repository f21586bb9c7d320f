import { ESTIMATOR_CODES, ESTIMATORS, type Estimator } from '@umwelt/core';
import { windowParam, type Window } from '$lib/address';
import { day, defineParams, namedOf, numberOf, oneOf, word, type Param } from '$lib/address/params';

export const HISTORY_VIEWS = ['path', 'cone', 'premium', 'announcements'] as const;
export type HistoryView = (typeof HISTORY_VIEWS)[number];

/** Implied vols by session: at fixed days, the variance index, and wings at 30 days. */
export const IMPLIED_NAMES = [
  ...(['iv7', 'iv30', 'iv60', 'iv90', 'iv180', 'iv360', 'index'] as const),
  ...(['put25', 'call25', 'put10', 'call10'] as const),
] as const;
export type ImpliedName = (typeof IMPLIED_NAMES)[number];

/** What stands below the vols. */
export const LOWERS = ['gap', 'ratio', 'rr25', 'bf25', 'slope', 'move'] as const;
export type Lower = (typeof LOWERS)[number];

/** Sessions over which a value is ranked; 0 is all. */
export const LOOKBACKS = [60, 120, 252, 504, 0] as const;
export type Lookback = (typeof LOOKBACKS)[number];

/** How far back is shown: months, what implied vols are held of, or all bars. */
export const SPANS = ['3m', '6m', '1y', 'held', 'bars'] as const;
export type Span = (typeof SPANS)[number];

export interface HistoryParams {
  picture: HistoryView;
  implied: readonly ImpliedName[];
  /** At least one; implied is held against the first. */
  estimators: readonly Estimator[];
  window: Window;
  lower: Lower;
  lookback: Lookback;
  span: Span;
  /** The day that is begun with, in place of a span. */
  since: string | null;
  /** The kind of announcements that are studied; blank for all. */
  announced: string;
}

/** Estimators by their codes. */
const USUAL_ESTIMATORS: readonly Estimator[] = ['yang-zhang'];
const codes = namedOf('hv', Object.values(ESTIMATOR_CODES), []);
const estimators: Param<readonly Estimator[]> = {
  name: 'hv',
  usual: USUAL_ESTIMATORS,
  read: (text) => {
    const named = codes.read(text, null).map((code) => ESTIMATORS.find((one) => ESTIMATOR_CODES[one] === code)!);
    return named.length > 0 ? named : USUAL_ESTIMATORS;
  },
  write: (value) => value.map((one) => ESTIMATOR_CODES[one]).join(),
};

export const PARAMS = defineParams<HistoryParams>({
  picture: oneOf('picture', HISTORY_VIEWS, 'path'),
  implied: namedOf('iv', IMPLIED_NAMES, ['iv30']),
  estimators,
  window: windowParam('window'),
  lower: oneOf('below', LOWERS, 'gap'),
  lookback: numberOf('lookback', LOOKBACKS, 252),
  span: oneOf('span', SPANS, 'held'),
  since: day('since'),
  announced: word<string>('announced', ''),
});
