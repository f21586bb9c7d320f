/** Calculators: what they take and answer, without anything that is held. */
import {
  DEFAULT_STEPS,
  ESTIMATORS,
  exerciseOf,
  isOnForward,
  MODEL_IDS,
  MOST_STEPS,
  REASONS,
  SESSIONS_PER_YEAR,
  STRADDLE_CHOICES,
  type Exercise,
} from '@umwelt/core';
import { z } from 'zod';
import { day, exercise, number, orNull, positive, side } from '../shared';

const MOST_ITEMS = 100_000;

const CashDividend = z.object({
  years: number.describe('from now to the ex-date'),
  amount: number.min(0).describe('per unit of the underlying'),
});

const MOST_DIVIDENDS = 500;

const contractTerms = {
  model: z.enum(MODEL_IDS),
  side,
  exercise: exercise
    .optional()
    .describe('a choice for binomial, which is american unless given; the other models have one of their own'),
  spot: number.optional().describe('price of the underlying, for all models but black-76 and bachelier'),
  forward: number.optional().describe('forward price, for black-76 and bachelier'),
  strike: number,
  years: number.describe('time to expiry, ACT/365F'),
  rate: number.describe('continuously compounded, decimal per year'),
  yield: number.optional().describe('dividend yield, or the foreign rate of garman-kohlhagen'),
  dividends: z
    .array(CashDividend)
    .max(MOST_DIVIDENDS)
    .optional()
    .describe('cash, escrowed; those with 0 < years < time to expiry count; american with any is priced in the tree'),
  steps: z.int().min(3).max(MOST_STEPS).optional().describe(`of the tree, made odd; ${DEFAULT_STEPS} unless given`),
};

interface PricedOn {
  model: (typeof MODEL_IDS)[number];
  exercise?: Exercise | undefined;
  spot?: number | undefined;
  forward?: number | undefined;
  strike: number;
  dividends?: readonly unknown[] | undefined;
}

/** Demands the price that the model is written on, positive prices where it takes logarithms, and no terms of others. */
function checkUnderlying(contract: PricedOn, context: z.RefinementCtx): void {
  const { model, exercise, strike, dividends = [] } = contract;
  const field = isOnForward(model) ? 'forward' : 'spot';
  const value = contract[field];
  const fault = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
  if (value === undefined) fault(field, `${model} needs ${field}`);
  if (exercise && exercise !== exerciseOf(contract)) {
    fault('exercise', `${model} is ${exerciseOf(contract)}; american and binomial can be exercised early`);
  }
  if (dividends.length > 0 && (isOnForward(model) || model === 'garman-kohlhagen')) {
    fault('dividends', `${model} takes no cash dividends`);
  }
  if (model === 'bachelier') return;
  if (value !== undefined && !(value > 0)) fault(field, 'must be greater than 0');
  if (!(strike > 0)) fault('strike', 'must be greater than 0');
}

export const PriceContract = z
  .object({ ...contractTerms, vol: number.min(0).describe('decimal per √year; in price units for bachelier') })
  .superRefine(checkUnderlying)
  .meta({ id: 'Contract' });

export const PriceRequest = z
  .object({ contracts: z.array(PriceContract).max(MOST_ITEMS) })
  .meta({ id: 'PriceRequest' });

const ItemError = z.object({ error: z.object({ code: z.enum(REASONS), message: z.string() }) });

export const PriceResult = z.object({
  price: orNull,
  delta: orNull,
  gamma: orNull,
  theta: orNull.describe('per calendar day'),
  vega: orNull.describe('per vol point'),
  rho: orNull.describe('per percentage point'),
  vanna: orNull,
  volga: orNull,
  charm: orNull,
  speed: orNull,
  color: orNull,
  veta: orNull,
  zomma: orNull,
  itm: orNull.describe('risk-neutral probability to end in the money'),
  touch: orNull.describe('probability that the price reaches the strike before expiry; null with cash dividends'),
  pricedBy: z
    .enum(MODEL_IDS)
    .describe('the model; binomial for an american contract with cash dividends or two exercise boundaries'),
});

export const PriceResponse = z
  .object({ results: z.array(z.union([PriceResult, ItemError])) })
  .meta({ id: 'PriceResponse' });

export const ImpliedVolContract = z
  .object({ ...contractTerms, price: number })
  .superRefine(checkUnderlying)
  .meta({ id: 'PricedContract' });

export const ImpliedVolRequest = z
  .object({ contracts: z.array(ImpliedVolContract).max(MOST_ITEMS) })
  .meta({ id: 'ImpliedVolRequest' });

export const ImpliedVolResponse = z
  .object({ results: z.array(z.union([z.object({ vol: number }), ItemError])) })
  .meta({ id: 'ImpliedVolResponse' });

const MOST_LEVELS = 100_000;

const MOST_STRIKES = 10_000;

const VolSlice = z
  .object({ strikes: z.array(positive).min(1).max(MOST_STRIKES), vols: z.array(positive).min(1).max(MOST_STRIKES) })
  .superRefine(({ strikes, vols }, context) => {
    if (strikes.length === vols.length) return;
    const message = `${vols.length} vols for ${strikes.length} strikes`;
    context.addIssue({ code: 'custom', path: ['vols'], message });
  });

export const ProbabilitiesRequest = z
  .object({
    forward: positive,
    spot: positive.optional().describe('where a touch starts, with the drift that leads to the forward'),
    years: z.number().min(0),
    vol: z.number().min(0).optional().describe('one vol for all levels'),
    slice: VolSlice.optional().describe('or the vols of an expiry, of whose fitted curve the density is taken'),
    levels: z.array(number).max(MOST_LEVELS),
  })
  .superRefine(({ vol, slice, years }, context) => {
    const fault = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
    if (vol === undefined && slice === undefined) fault('vol', 'vol or slice is needed');
    if (vol !== undefined && slice !== undefined) fault('slice', 'vol or slice, not both');
    if (slice && years === 0) fault('years', 'a slice needs time to its expiry');
  })
  .meta({ id: 'ProbabilitiesRequest' });

const MoveLevels = z.object({ move: number, low: number, high: number });

export const ProbabilitiesResponse = z
  .object({
    levels: z
      .array(
        z.object({
          level: number,
          above: orNull,
          below: orNull,
          touch: orNull.describe('watched continuously; null with a slice'),
        }),
      )
      .describe('in the order of the request'),
    zones: z
      .array(z.object({ from: orNull, to: orNull, probability: orNull }))
      .describe('ascending, one more than levels; the outer ends null'),
  })
  .meta({ id: 'Probabilities' });

export const ExpectedMoveRequest = z
  .object({
    forward: positive,
    years: z.number().min(0),
    atmVol: z.number().min(0).optional(),
    straddles: z
      .array(z.object({ strike: number, callMid: orNull, putMid: orNull }))
      .max(MOST_STRIKES)
      .optional()
      .describe('strikes without both mids (for choice forward: without any) are passed over'),
    choice: z
      .enum(STRADDLE_CHOICES)
      .default('bracket')
      .describe(
        'bracket: the straddles of the two strikes around the forward, by distance; nearest: one alone; forward: priced at ' +
          'the forward, with the vols of the mids at the two strikes',
      ),
    rate: number.default(0).describe('of the discount, for choice forward'),
  })
  .superRefine(({ atmVol, straddles }, context) => {
    if (atmVol !== undefined || straddles !== undefined) return;
    context.addIssue({ code: 'custom', path: ['atmVol'], message: 'atmVol or straddles is needed' });
  })
  .meta({ id: 'ExpectedMoveRequest' });

export const ExpectedMoveResponse = z
  .object({
    straddle: MoveLevels.extend({
      vol: orNull.describe('at the forward, for choice forward'),
      used: z.array(
        z.object({
          ...{ strike: number, callMid: orNull, putMid: orNull, weight: number },
          vol: orNull.describe('of both mids, of one alone where the other is missing'),
        }),
      ),
    }).nullable(),
    deviation: MoveLevels.nullable(),
    missing: z
      .object({ straddle: z.string().optional(), deviation: z.string().optional() })
      .describe('why one is null'),
  })
  .meta({ id: 'ExpectedMove' });

const openContracts = z.number().min(0).nullable().describe('null counts as none');

export const MaxPainRequest = z
  .object({
    strikes: z
      .array(z.object({ strike: number, callOpenInterest: openContracts, putOpenInterest: openContracts }))
      .min(1)
      .max(MOST_STRIKES),
    multiplier: positive.optional().describe('1 unless given'),
  })
  .meta({ id: 'MaxPainRequest' });

export const MaxPainResponse = z
  .object({
    strike: number.describe('the lowest of equals'),
    curve: z.array(z.object({ price: number, callValue: number, putValue: number, total: number })),
  })
  .meta({ id: 'MaxPain' });

const MOST_BARS = 20_000;

const MOST_WINDOW = 2520;

const PriceBar = z
  .object({ date: day, open: positive, high: positive, low: positive, close: positive })
  .refine(({ open, high, low, close }) => high >= Math.max(open, low, close) && low <= Math.min(open, close), {
    message: 'the high must be the highest of its prices, the low the lowest',
    path: ['high'],
  });

export const RealizedVolRequest = z
  .object({
    bars: z.array(PriceBar).min(1).max(MOST_BARS).describe('in order of time'),
    window: z.int().min(2).max(MOST_WINDOW).describe('bars or returns'),
    estimator: z.enum(ESTIMATORS),
    periodsPerYear: positive.max(1e6).default(SESSIONS_PER_YEAR),
  })
  .superRefine(({ bars }, context) => {
    const at = bars.findIndex(({ date }, i) => i > 0 && date <= bars[i - 1]!.date);
    if (at < 0) return;
    context.addIssue({ code: 'custom', path: ['bars', at, 'date'], message: 'must be after the day before it' });
  })
  .meta({ id: 'RealizedVolRequest' });

export const RealizedVolResponse = z
  .object({ series: z.array(z.object({ date: day, vol: orNull })).describe('from the first bar with a full window') })
  .meta({ id: 'RealizedVol' });

const quoted = z.number().min(0).nullable().optional();

export const VarianceIndexRequest = z
  .object({
    targetDays: positive.max(3650).default(30),
    terms: z
      .array(
        z.object({
          minutes: positive.describe('to the expiry'),
          rate: number.min(-1).max(1),
          strikes: z
            .array(z.object({ strike: positive, callBid: quoted, callAsk: quoted, putBid: quoted, putAsk: quoted }))
            .max(MOST_STRIKES),
        }),
      )
      .length(2),
  })
  .meta({ id: 'VarianceIndexRequest' });

export const VarianceIndexResponse = z
  .object({
    index: orNull.describe('in per cent, as published'),
    terms: z.array(
      z.union([
        z.object({ forward: number, k0: number, variance: number, strikesUsed: number }),
        z.object({ error: z.object({ code: z.string(), message: z.string() }) }),
      ]),
    ),
  })
  .meta({ id: 'VarianceIndex' });

const MOST_SLICES = 60;

const MOST_POINTS = 500;

const MOST_QUERIES = 10_000;

const GivenSlice = z
  .object({
    years: positive.max(100),
    forward: positive,
    strikes: z.array(positive).min(1).max(MOST_POINTS),
    vols: z.array(positive.max(20)).min(1).max(MOST_POINTS).describe('decimals, aligned with the strikes'),
    weights: z.array(positive).max(MOST_POINTS).optional().describe('what each vol counts for; alike unless given'),
  })
  .superRefine(({ strikes, vols, weights }, context) => {
    const fault = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
    if (vols.length !== strikes.length) fault('vols', `has ${vols.length} values for ${strikes.length} strikes`);
    if (weights && weights.length !== strikes.length)
      fault('weights', `has ${weights.length} values for ${strikes.length} strikes`);
    if (new Set(strikes).size < strikes.length) fault('strikes', 'names a strike twice');
  });

export const SurfaceFitRequest = z
  .object({
    slices: z
      .array(GivenSlice)
      .min(1)
      .max(MOST_SLICES)
      .refine((slices) => new Set(slices.map(({ years }) => years)).size === slices.length, 'two are of one time'),
    query: z
      .array(z.object({ years: positive.max(100), strike: positive }))
      .max(MOST_QUERIES)
      .default([]),
  })
  .meta({ id: 'SurfaceFitRequest' });

export const svi = { a: number, b: number, rho: number, m: number, sigma: number };

export const SurfaceFitResponse = z
  .object({
    slices: z
      .array(
        z.object({
          years: number,
          params: z
            .union([
              z.object({ kind: z.enum(['svi', 'svi3', 'flat']), ...svi }),
              z.object({
                kind: z.literal('mixture'),
                states: z.array(z.object({ weight: number, multiple: number, deviation: number })),
              }),
            ])
            .describe(
              'total variance over k = ln(K/F): a + b(ρ(k − m) + √((k − m)² + σ²)), of which svi3 has three free and flat one; mixture: lognormals with weight, multiple of the forward and deviation σ√T',
            ),
          rmse: number.describe('of the vols, a decimal'),
          maxError: number,
          butterflyArbitrage: z
            .array(z.object({ from: number, to: number }))
            .describe('strikes between which the given vols say a negative density; the fit has none'),
        }),
      )
      .describe('in the order of the request'),
    calendarArbitrage: z
      .array(z.object({ nearYears: number, farYears: number }))
      .describe(
        'neighbours in time of which the given vols say less variance to the later one at some strike over forward',
      ),
    query: z.array(
      z.object({ vol: number, density: number.describe('of the price at that time, undiscounted, per unit of price') }),
    ),
  })
  .meta({ id: 'SurfaceFit' });
