import {
  candidateFormula,
  FormulaError,
  MEASURE_KEYS,
  type FinderAsked,
  type FinderMeasure,
  type FoundRow,
  type MeasureLimit,
} from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { measureNamed } from '$lib/columns';
import { LEGS_BY, type FinderParams } from './params';
import { inHand } from './rows';

export type FinderRequest = z.input<typeof schemas.FinderRequest>;
/** What a template says: all that is looked for, but not where and when. */
export type Template = Omit<FinderRequest, 'symbols' | 'screen' | 'asof' | 'histograms' | 'drawn'>;

const SIMPLE = /^([\w.]+) (>=|<=) (-?\d+(?:\.\d+)?(?:e-?\d+)?)$/;

/** A condition that is one limit of a measure, as it is dragged; null for all others. */
export function limitOf(condition: string): { measure: FinderMeasure; end: 'least' | 'most'; value: number } | null {
  const [, name, sign, digits] = SIMPLE.exec(condition) ?? [];
  const measure = MEASURE_KEYS.find((key) => key === name);
  return measure ? { measure, end: sign === '>=' ? 'least' : 'most', value: Number(digits) } : null;
}

/** What the conditions say of a measure. */
export function limitsOn(conditions: readonly string[], measure: FinderMeasure): Omit<MeasureLimit, 'measure'> {
  const found: { least?: number; most?: number } = {};
  for (const condition of conditions) {
    const limit = limitOf(condition);
    if (limit?.measure === measure) found[limit.end] = limit.value;
  }
  return found;
}

/** The conditions with a measure between two ends; an end that is not given is none. */
export function withLimits(
  conditions: readonly string[],
  measure: FinderMeasure,
  { least, most }: Omit<MeasureLimit, 'measure'>,
): string[] {
  const others = conditions.filter((condition) => limitOf(condition)?.measure !== measure);
  return [
    ...others,
    ...(least === undefined ? [] : [`${measure} >= ${least}`]),
    ...(most === undefined ? [] : [`${measure} <= ${most}`]),
  ];
}

/** Conditions apart: those that are limits of measures, and formulas; each with its place. */
export function conditionsOf(conditions: readonly string[]) {
  const limits: { limit: MeasureLimit; at: number }[] = [];
  const formulas: { source: string; at: number }[] = [];
  conditions.forEach((source, at) => {
    const limit = limitOf(source);
    if (limit) limits.push({ limit: { measure: limit.measure, [limit.end]: limit.value }, at });
    else formulas.push({ source, at });
  });
  return { limits, formulas };
}

const fillOf = ({ slip }: FinderParams) => (slip === 0 ? 'mid' : { slippage: slip / 100 });

/** What is asked of the candidates themselves: what has to be made anew when it changes. */
export function makingOf(params: FinderParams, multiplier: number): FinderAsked {
  const { sought: kinds, daysFrom, daysTo, legsBy, legsFrom, legsTo, wingFrom, wingTo, gapFrom, gapTo } = params;
  return {
    // A list of the address is no list that a worker can be sent.
    kinds: [...kinds],
    days: [daysFrom, daysTo],
    legs: { [legsBy]: [legsFrom, legsTo], wing: [wingFrom, wingTo] },
    gap: [gapFrom, gapTo],
    fill: fillOf(params),
    fee: params.contractFee / multiplier,
    hasAll: params.hasRefused,
    isOwnFlat: params.isOwnFlat,
    hasStress: params.hasStress,
    most: MOST_MADE,
  };
}

/** Candidates of the underlying in view that are measured in the page. */
export const MOST_MADE = 150_000;

/** What is looked for, as a request says it. */
export function templateOf(params: FinderParams): Template {
  const { days, legs, gap } = makingOf(params, 1);
  return {
    kinds: [...params.sought],
    days: [...days],
    legs: { [params.legsBy]: [...legs[params.legsBy]!], wing: [...legs.wing!] },
    gap: [...gap],
    fill: fillOf(params),
    fee: params.contractFee,
    refused: params.hasRefused,
    own: params.own === 'typed' ? params.ownTyped / 100 : params.own,
    ownSkew: params.isOwnFlat ? 'flat' : 'kept',
    recentred: params.isRecentred,
    stress: params.hasStress,
    limits: [...params.conditions],
    rank: params.weights.map((weight) => ({ ...weight })),
    top: { ...(params.each > 0 && { each: params.each }), per: params.per },
    undominated: params.isUndominated,
  };
}

/** By what legs are limited, as the address has it: it knows one way. */
function legsOf(legs: NonNullable<Template['legs']>): Partial<FinderParams> {
  const legsBy = LEGS_BY.find((by) => legs[by]);
  const range = legsBy && legs[legsBy];
  return range ? { legsBy, legsFrom: range[0], legsTo: range[1] } : {};
}

/** What a template says, as the address has it. */
export function paramsOf(template: Template): Partial<FinderParams> {
  const {
    kinds,
    days,
    legs = {},
    gap,
    fill,
    fee,
    refused,
    own,
    ownSkew,
    recentred,
    stress,
    limits,
    rank,
    top,
  } = template;
  const slip =
    fill === undefined || fill === 'mid' ? 0 : fill === 'worst' ? 100 : fill === 'best' ? -100 : 100 * fill.slippage;
  return {
    ...(kinds && { sought: kinds }),
    ...(days && { daysFrom: days[0], daysTo: days[1] }),
    ...legsOf(legs),
    ...(legs.wing && { wingFrom: legs.wing[0], wingTo: legs.wing[1] }),
    ...(gap && { gapFrom: gap[0], gapTo: gap[1] }),
    ...{ slip, contractFee: fee ?? 0, hasRefused: refused ?? false },
    ...(typeof own === 'number' ? { own: 'typed' as const, ownTyped: 100 * own } : { own: own ?? 'garch' }),
    ...{ isOwnFlat: ownSkew === 'flat', isRecentred: recentred ?? true, hasStress: stress ?? false },
    ...{ conditions: limits ?? [], ...(rank && { weights: rank }) },
    ...{ each: top?.each ?? 0, per: top?.per ?? 'expiry', isUndominated: template.undominated ?? false },
  };
}

/** Conditions that make no sense, by their place. */
export function faultsOf(conditions: readonly string[]): ReadonlyMap<number, string> {
  const faults = new Map<number, string>();
  for (const { source, at } of conditionsOf(conditions).formulas) {
    try {
      candidateFormula(source, measureNamed);
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error;
      faults.set(at, `at character ${error.from + 1}: ${error.message}`);
    }
  }
  return faults;
}

/** What is asked of a row beside what was found: what it comes to by every basis, entered as it stands there. */
export function questionOf(row: FoundRow, { asof, slip, fee }: { asof: string | null; slip: number; fee: number }) {
  const { legs, held } = inHand(row);
  return {
    ...(asof && { asof }),
    legs: [
      ...legs.map(({ expiry, settlement, strike, side, quantity }) => ({
        ...{ expiry, strike, side, quantity },
        ...(settlement && { settlement }),
      })),
      ...(held === 0 ? [] : [{ underlying: true as const, quantity: held }]),
    ],
    fill: slip === 0 ? ('mid' as const) : { slippage: slip / 100 },
    fee,
  };
}
