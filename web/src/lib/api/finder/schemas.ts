/** Structures that are looked for. */
import { BEST_PER, FINDER_KINDS, FINDER_MEASURES, MEASURE_KEYS, VOL_MODELS } from '@umwelt/core';
import { z } from 'zod';
import { day, finite, format, moment, number, orNull, positive, settlement, side, symbol, version } from '../shared';

const range = z
  .tuple([finite, finite])
  .refine(([from, to]) => from <= to, 'the first is the least, the second the most');
const measure = z.enum(MEASURE_KEYS);
const formula = z.string().max(500);

const MOST_FORMULAS = 24;
const MOST_WEIGHTS = 12;
export const MOST_ROWS = 5000;

/** What is looked for unless it is said otherwise. */
export const USUAL_KINDS = ['vertical-credit', 'iron-condor', 'iron-butterfly', 'broken-wing'] as const;

const WHERE = {
  symbols: z.array(symbol).min(1).max(10_000).optional().describe('where to look; everywhere unless given'),
  screen: z.string().max(60).optional().describe('or what a kept screen leaves, by its name'),
  asof: moment.optional().describe('the latest snapshot of each underlying at or before it'),
};

/** What is looked for, wherever that is. */
const TERMS = {
  kinds: z
    .array(z.enum(FINDER_KINDS))
    .min(1)
    .default([...USUAL_KINDS]),
  days: range.default([7, 70]).describe('of each expiry'),
  legs: z
    .object({
      delta: range.optional().describe('on the forward, absolute'),
      odds: range.optional().describe('to end in the money, by the curve'),
      deviations: range.optional().describe('|ln(K/F)| over σ√T'),
      width: range.optional().describe('distance of the strikes of a wing, in price'),
      wing: range.optional().describe('the same in deviations of the expiry'),
    })
    .default({})
    .describe('hold for sold legs, or for all where none is sold'),
  gap: range.default([1, 400]).describe('days between the expiries of calendars and diagonals'),
  refused: z.boolean().default(false).describe('whether quotes take part that are refused, set aside or of one side'),
  fill: z
    .union([z.enum(['worst', 'mid', 'best']), z.object({ slippage: number.min(-1).max(1) })])
    .default('mid')
    .describe('slippage is a share of the half spread over the mid'),
  fee: number.min(0).max(1e6).default(0).describe('of each contract, in money; part of every cost'),
  own: z
    .union([z.enum(VOL_MODELS), positive.max(5)])
    .default('garch')
    .describe('the vol of one’s own: a forecast, or typed as a decimal'),
  ownSkew: z.enum(['kept', 'flat']).default('kept').describe('whether it keeps the skew of the curve'),
  recentred: z.boolean().default(true).describe('whether past moves are made to lead to the forward'),
  stress: z.boolean().default(false).describe('whether the stress is told of structures whose loss has an end'),
  limits: z.array(formula).max(MOST_FORMULAS).default([]).describe('conditions over measures, such as touch < 60%'),
  rank: z
    .array(z.object({ measure, weight: finite.describe('a negative one prefers low') }))
    .min(1)
    .max(MOST_WEIGHTS)
    .default([
      { measure: 'edges.past.ofRisk', weight: 35 },
      { measure: 'edges.ownVol.ofRisk', weight: 25 },
      { measure: 'returnOnRisk', weight: 15 },
      { measure: 'touch', weight: -15 },
      { measure: 'spreadShare', weight: -10 },
    ]),
  top: z
    .object({
      each: z.int().min(1).max(1000).optional().describe('the best so many of each; all unless given'),
      per: z.enum(BEST_PER).default('expiry').describe('of a kind and expiry of an underlying, of that, of a family'),
      all: z.int().min(1).max(MOST_ROWS).default(200).describe('rows at most'),
    })
    .prefault({}),
  undominated: z.boolean().default(false).describe('whether those go that are worse in all weighted measures'),
};

const hasWeight = ({ rank }: { rank: readonly { weight: number }[] }) => rank.some(({ weight }) => weight !== 0);
const NO_WEIGHT = { message: 'one weight at least is not 0', path: ['rank'] };

export const FinderRequest = z
  .object({
    ...WHERE,
    ...TERMS,
    histograms: z.array(measure).max(MOST_FORMULAS).default([]).describe('measures whose spread is told'),
    scatter: z.object({ x: measure, y: measure }).optional().describe('two measures whose candidates are counted'),
    drawn: z.boolean().default(false).describe('whether rows bring their profit along the price'),
  })
  .refine(({ symbols, screen }) => symbols === undefined || screen === undefined, {
    message: 'symbols or a screen, not both',
    path: ['screen'],
  })
  .refine(hasWeight, NO_WEIGHT)
  .meta({ id: 'FinderRequest' });

export const TemplateRequest = z
  .object({
    name: z.string().trim().min(1).max(60),
    asked: z.object(TERMS).refine(hasWeight, NO_WEIGHT),
    version: version.nullable().default(null).describe('of the one that is changed; null for a new one'),
  })
  .meta({ id: 'FinderTemplateRequest' });

export const TemplatesResponse = z
  .object({
    templates: z.array(z.object({ id: number, name: z.string(), asked: z.object(TERMS), version, changed: moment })),
  })
  .meta({ id: 'FinderTemplates' });

export const FinderQuery = z.object({ format });

const Edge = z.object({
  money: orNull.describe('worth less what it is entered at; per unit of the underlying'),
  ofRisk: orNull.describe('over the capital at risk'),
  volPoints: orNull.describe('over its vega, where legs do not cancel it'),
  error: orNull.describe('one standard error, in money'),
});

const told = (name: keyof typeof FINDER_MEASURES) => orNull.describe(FINDER_MEASURES[name]);

const Leg = z.object({
  underlying: z.literal(true).optional(),
  expiry: day.optional(),
  settlement: settlement.optional(),
  strike: number.optional(),
  side: side.optional(),
  quantity: number.describe('signed contracts; of the underlying in contracts’ worth'),
  mid: orNull,
  vol: orNull.describe('of its strike on the curve'),
  openInterest: orNull,
  volume: orNull,
});

const Row = z.object({
  symbol: z.string(),
  multiplier: number,
  price: number,
  kind: z.enum(FINDER_KINDS),
  legs: z.array(Leg),
  days: told('days'),
  cost: told('cost'),
  worst: told('worst'),
  mid: told('mid'),
  best: told('best'),
  width: told('width'),
  maxProfit: orNull.describe('at the first expiry; null where it has no end'),
  maxLoss: orNull.describe('positive; null where it has no end'),
  unlimited: z.object({ profit: z.boolean(), loss: z.boolean() }),
  capital: told('capital'),
  rewardToRisk: told('rewardToRisk'),
  returnOnRisk: told('returnOnRisk'),
  annualized: told('annualized'),
  evens: z.object({ lower: told('evens.lower'), upper: told('evens.upper') }),
  evenDeviations: told('evenDeviations'),
  probabilityOfProfit: told('probabilityOfProfit'),
  odds: z.object({ past: told('odds.past'), ownVol: told('odds.ownVol') }),
  touch: told('touch'),
  shortDelta: told('shortDelta'),
  greeks: z.object({
    delta: told('greeks.delta'),
    gamma: told('greeks.gamma'),
    theta: told('greeks.theta'),
    vega: told('greeks.vega'),
  }),
  thetaPerVega: told('thetaPerVega'),
  costPerDelta: told('costPerDelta'),
  volSpread: told('volSpread'),
  skew: told('skew'),
  curvature: told('curvature'),
  stress: told('stress'),
  spread: told('spread'),
  spreadShare: told('spreadShare'),
  weakest: z.object({
    openInterest: told('weakest.openInterest'),
    volume: told('weakest.volume'),
    quality: told('weakest.quality'),
  }),
  announcements: told('announcements'),
  edges: z.object({ curve: Edge, past: Edge, ownVol: Edge, peers: Edge }),
  ownVol: orNull.describe('the vol of one’s own to its first expiry'),
  independent: number.describe('past moves of that length that do not overlap'),
  score: number.describe('100 · Σ|w|·rank ÷ Σ|w|, ranks among all that were made'),
  shares: z.array(z.object({ measure, share: number })).describe('what each weight adds to the score'),
  became: orNull.describe('what it gained by its expiry, where that has passed'),
  settled: orNull.describe('the price that it ended at'),
  sketch: z
    .object({
      prices: z.array(number),
      profits: z.array(number),
      forward: number,
      dots: z.array(z.object({ price: number, profit: number })).describe('one in twenty of the past moves each'),
    })
    .optional(),
});

export const FinderResponse = z
  .object({
    made: number.describe('candidates that were measured'),
    within: number.describe('those within all limits'),
    leftOut: z.array(z.object({ limit: z.string(), count: number })).describe('how many each limit leaves out alone'),
    unknown: z
      .array(z.object({ measure, count: number }))
      .describe('how many are not ranked since a weighted measure is not known of them'),
    dominated: number.describe('within the limits, but worse in all weighted measures than another'),
    further: number.describe('within the limits, but not among the best of their group'),
    over: number.describe('made beyond the limit of work, which are not measured'),
    quotesOut: number.describe('quotes of the expiries in view that take no part'),
    skipped: z
      .array(z.object({ symbol: z.string(), why: z.string() }))
      .describe('underlyings without candidates, or without a past'),
    bestOfNone: number.describe('standard errors that the best of so many independent ones shows without any edge'),
    histograms: z.array(z.object({ measure, from: number, to: number, counts: z.array(number), unknown: number })),
    scatter: z
      .object({
        x: z.tuple([number, number]),
        y: z.tuple([number, number]),
        counts: z.array(z.array(number)).describe('a row for each step of y'),
      })
      .nullable()
      .describe('between the outer hundredths of both'),
    rows: z.array(Row),
  })
  .meta({ id: 'Finder' });
