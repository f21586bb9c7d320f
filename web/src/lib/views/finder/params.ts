import {
  BEST_PER,
  FINDER_KINDS,
  MEASURE_KEYS,
  VOL_MODELS,
  type BestPer,
  type FinderKind,
  type FinderMeasure,
  type Weight,
} from '@umwelt/core';
import { defineParams, flag, namedOf, numberIn, oneOf, someOf, texts, word, type Param } from '$lib/address/params';

/** Where to look: the underlying in view, some that are chosen, what a screen leaves, or everywhere. */
export const PLACES = ['focus', 'chosen', 'screen', 'all'] as const;
export type Place = (typeof PLACES)[number];

export const OWN_CHOICES = [...VOL_MODELS, 'typed'] as const;
export type OwnChoice = (typeof OWN_CHOICES)[number];
/** By what legs are limited: delta on the forward, odds to end in the money, deviations; each with its usual ends and its most. */
export const LEGS_BY = ['delta', 'odds', 'deviations'] as const;
export type LegsBy = (typeof LEGS_BY)[number];
export const USUAL_LEGS: Readonly<Record<LegsBy, readonly [number, number]>> = {
  delta: [0.08, 0.42],
  odds: [0.08, 0.42],
  deviations: [0.3, 1.6],
};
export const MOST_OF_LEGS = 6;
export const PICTURES = ['rows', 'scatter'] as const;
export const GROUPINGS = ['none', 'underlying', 'kind'] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** Separates conditions in an address: no formula contains it. */
const BETWEEN = '|';
export const MOST_CONDITIONS = 24;
export const MOST_WEIGHTS = 12;
export const MOST_WEIGHT = 100;
export const MOST_DAYS = 1000;
export const MOST_WING = 6;
/** In per cent of the half spread, from best to worst. */
export const SLIP = [-100, 100] as const;
export const MOST_FEE = 1000;

/** Measures that have a limit to be dragged unless others are chosen. */
export const USUAL_LIMITED = [
  ...(['days', 'shortDelta', 'probabilityOfProfit', 'returnOnRisk'] as const),
  ...(['edges.past.ofRisk', 'spreadShare', 'weakest.openInterest'] as const),
] satisfies FinderMeasure[];

export const USUAL_WEIGHTS: readonly Weight[] = [
  { measure: 'edges.past.ofRisk', weight: 35 },
  { measure: 'edges.ownVol.ofRisk', weight: 25 },
  { measure: 'returnOnRisk', weight: 15 },
  { measure: 'touch', weight: -15 },
  { measure: 'spreadShare', weight: -10 },
];

/** Columns of the rows, beside score, structure, picture and the weakest point. */
export const USUAL_COLUMNS = [
  ...(['cost', 'edges.curve.ofRisk', 'edges.ownVol.ofRisk', 'edges.past.ofRisk'] as const),
  ...(['probabilityOfProfit', 'returnOnRisk'] as const),
] satisfies FinderMeasure[];

/** Weights such as `edges.past.ofRisk:35,touch:-15`. */
const weights: Param<readonly Weight[]> = {
  name: 'weights',
  usual: USUAL_WEIGHTS,
  read: (text) => {
    const read = (text ?? '').split(',').flatMap((one): Weight[] => {
      const [name, digits] = one.split(':');
      const measure = MEASURE_KEYS.find((key) => key === name);
      const weight = Number(digits || NaN);
      return measure && Math.abs(weight) <= MOST_WEIGHT ? [{ measure, weight }] : [];
    });
    const each = read.filter(({ measure }, i) => read.findIndex((one) => one.measure === measure) === i);
    return each.some(({ weight }) => weight !== 0) ? each.slice(0, MOST_WEIGHTS) : USUAL_WEIGHTS;
  },
  write: (value) => value.map(({ measure, weight }) => `${measure}:${weight}`).join(),
};

export interface FinderParams {
  place: Place;
  symbols: readonly string[];
  screen: string;
  sought: readonly FinderKind[];
  /** What is made: days of each expiry, how far sold legs are, wings in deviations, days between expiries. */
  daysFrom: number;
  daysTo: number;
  legsBy: LegsBy;
  legsFrom: number;
  legsTo: number;
  wingFrom: number;
  wingTo: number;
  gapFrom: number;
  gapTo: number;
  hasRefused: boolean;
  /** Per cent of the half spread that is paid over the middle, and the fee of a contract. */
  slip: number;
  contractFee: number;
  own: OwnChoice;
  /** In points. */
  ownTyped: number;
  isOwnFlat: boolean;
  isRecentred: boolean;
  hasStress: boolean;
  /** Measures with a limit to be dragged, and all conditions. */
  limited: readonly FinderMeasure[];
  conditions: readonly string[];
  weights: readonly Weight[];
  each: number;
  per: BestPer;
  isUndominated: boolean;
  measured: readonly FinderMeasure[];
  grouping: Grouping;
  /** A column that rows are ordered by in place of the score, with | rising behind it where it rises. */
  rowOrder: string;
  foundAs: (typeof PICTURES)[number];
  scatterX: FinderMeasure;
  scatterY: FinderMeasure;
  /** The row in focus, by what it is. */
  row: string;
}

const measureOf = (name: string, usual: FinderMeasure) => oneOf(name, MEASURE_KEYS, usual);

export const PARAMS = defineParams<FinderParams>({
  place: oneOf('look', PLACES, 'focus'),
  symbols: texts('symbols', ',', 60),
  screen: word<string>('screen', ''),
  sought: someOf('findkinds', FINDER_KINDS, ['vertical-credit', 'iron-condor', 'iron-butterfly', 'broken-wing']),
  daysFrom: numberIn('daysfrom', [0, MOST_DAYS], 7),
  daysTo: numberIn('daysto', [0, MOST_DAYS], 70),
  legsBy: oneOf('legsby', LEGS_BY, 'delta'),
  legsFrom: numberIn('legsfrom', [0, MOST_OF_LEGS], USUAL_LEGS.delta[0]),
  legsTo: numberIn('legsto', [0, MOST_OF_LEGS], USUAL_LEGS.delta[1]),
  wingFrom: numberIn('wingfrom', [0, MOST_WING], 0.2),
  wingTo: numberIn('wingto', [0, MOST_WING], 1.2),
  gapFrom: numberIn('gapfrom', [1, MOST_DAYS], 5),
  gapTo: numberIn('gapto', [1, MOST_DAYS], 60),
  hasRefused: flag('refused', 'too'),
  slip: numberIn('slip', SLIP, 30),
  contractFee: numberIn('findfee', [0, MOST_FEE], 0),
  own: oneOf('own', OWN_CHOICES, 'garch'),
  ownTyped: numberIn('ownvol', [1, 400], 20),
  isOwnFlat: flag('ownskew', 'flat'),
  isRecentred: flag('findpast', 'kept', true),
  hasStress: flag('stress', 'told'),
  limited: namedOf('limited', MEASURE_KEYS, USUAL_LIMITED),
  conditions: texts('findkeep', BETWEEN, MOST_CONDITIONS),
  weights,
  each: numberIn('each', [0, 1000], 2, true),
  per: oneOf('per', BEST_PER, 'expiry'),
  isUndominated: flag('dominated', 'hidden'),
  measured: namedOf('foundcolumns', MEASURE_KEYS, USUAL_COLUMNS),
  grouping: oneOf('group', GROUPINGS, 'none'),
  rowOrder: word<string>('foundsort', ''),
  foundAs: oneOf('foundpicture', PICTURES, 'rows'),
  scatterX: measureOf('across', 'probabilityOfProfit'),
  scatterY: measureOf('up', 'returnOnRisk'),
  row: word<string>('row', ''),
});
