/**
 * Every request and response of the API. The OpenAPI document is generated from these, the screens take their
 * types from them, and the tests check answers against them.
 */
import {
  BASES,
  BORROW_MAPS,
  CONE_SHARES,
  CURVE_KINDS,
  CURVE_SHAPES,
  DOUBTED_MEASURES,
  EXPIRY_ASIDES,
  DEFAULT_STEPS,
  ESTIMATORS,
  exerciseOf,
  isOnForward,
  MODEL_IDS,
  MOST_STEPS,
  parseExpiryName,
  REASONS,
  SESSIONS_PER_YEAR,
  SETTLEMENTS,
  STRADDLE_CHOICES,
} from '@umwelt/core';
import { IANAZone } from 'luxon';
import { z } from 'zod';
import { IMPORT_STATES } from '../db/schema';
import { FIRST_YEAR, isSymbol, isYear, LAST_YEAR, SYMBOL_RULE } from '../numbers';
import { FILE_KINDS } from '../../layouts';

const number = z.number();
const orNull = number.nullable();
const column = z.array(orNull).describe('aligned with the strikes; null where there is none');

const isInRange = (text: string) => isYear(Number(text.slice(0, 4)));
const outOfRange = `must lie between ${FIRST_YEAR} and ${LAST_YEAR}`;
export const moment = z.iso
  .datetime({ offset: true, message: 'must be a date and time with zone, like 2031-03-13T16:45:00Z' })
  .refine(isInRange, outOfRange)
  .describe('ISO 8601 with zone');
const day = z.iso.date('must be a date like 2031-03-13').refine(isInRange, outOfRange);

/** Two series of one day are two expiries. */
const settlement = z.enum(SETTLEMENTS);
const unsaid = settlement.optional().describe('unless given pm, or the only series of that day');
/** The name of an expiry: its day, with am behind it where it settles in the morning. */
const named = z
  .string()
  .refine((text) => {
    const expiry = parseExpiryName(text);
    return expiry !== null && day.safeParse(expiry.expiry).success;
  }, 'must be the name of an expiry like 2031-03-20, or 2031-03-20am')
  .describe('the name of an expiry: 2031-03-20, and 2031-03-20am where it settles in the morning');
const side = z.enum(['call', 'put']);

export const Problem = z
  .object({
    type: z.string(),
    status: number,
    title: z.string(),
    detail: z.string(),
    errors: z.array(z.object({ path: z.string(), message: z.string() })).optional(),
  })
  .meta({ id: 'Problem', description: 'RFC 9457 problem details' });

export const Health = z
  .object({ status: z.literal('ok'), database: z.literal('ok'), version: z.string() })
  .meta({ id: 'Health' });

// --- Calculators -----------------------------------------------------------------------------------------

const MOST_ITEMS = 100_000;
const EXERCISES = ['european', 'american'] as const;
const KINDS = ['index', 'etf', 'equity', 'future', 'fx'] as const;

const CashDividend = z.object({
  years: number.describe('from now to the ex-date'),
  amount: number.min(0).describe('per unit of the underlying'),
});

const MOST_DIVIDENDS = 500;

const contractTerms = {
  model: z.enum(MODEL_IDS),
  side,
  exercise: z
    .enum(EXERCISES)
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
  exercise?: 'european' | 'american' | undefined;
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
const positive = z.number().positive().min(1e-100).max(1e100);

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

const svi = { a: number, b: number, rho: number, m: number, sigma: number };

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

// --- Data ------------------------------------------------------------------------------------------------

/** The symbol of an underlying, as an import takes it. */
const symbol = z.string().refine(isSymbol, SYMBOL_RULE);
/** Some of them, separated by commas. */
const symbolList = z
  .string()
  .refine(
    (text) => text.split(',').every((one) => one.trim() === '' || isSymbol(one.trim())),
    `each of them ${SYMBOL_RULE}`,
  );

export const AsofQuery = z.object({
  asof: moment.optional().describe('the latest snapshot at or before it; the latest of all when left out'),
  format: z.enum(['json', 'csv']).optional(),
});

export const Underlying = z
  .object({
    symbol: z.string(),
    name: z.string(),
    kind: z.enum(KINDS),
    currency: z.string().nullable(),
    multiplier: number,
    exercise: z.enum(EXERCISES),
    family: z.string().nullable(),
    familyRatio: orNull,
    calendar: z.string().nullable(),
    root: z.string().nullable(),
    expires: day.nullable(),
    tick: orNull,
  })
  .meta({ id: 'Underlying' });

export const UnderlyingMeasures = Underlying.extend({
  asof: moment.nullable(),
  price: orNull,
  change: orNull.describe('from the close of the session before, as a share'),
  closeBefore: orNull.describe('that close'),
  iv30: orNull,
  hv20: orNull.describe('Yang–Zhang over 20 sessions, of the bars that are over at the as-of'),
  ivToHv: orNull,
  rank: orNull.describe('0…1, of iv30 over the sessions held, at most 252'),
  percentile: orNull,
  low: orNull,
  high: orNull,
  rankSessions: orNull.describe('sessions in the lookback'),
  termSlope: orNull.describe('90-day less 30-day vol'),
  termState: z.enum(['contango', 'backwardation', 'flat']).nullable(),
  riskReversal25: orNull,
  frontExpiry: day.nullable(),
  frontStraddleMove: orNull,
  frontDeviationMove: orNull,
  volume: orNull,
  openInterest: orNull,
  contracts: orNull,
  usable: orNull,
  quality: orNull.describe('0…100'),
}).meta({ id: 'UnderlyingMeasures' });

export const UnderlyingsResponse = z
  .object({ underlyings: z.array(UnderlyingMeasures) })
  .meta({ id: 'UnderlyingsResponse' });

export const SnapshotSummary = z
  .object({
    asof: moment,
    price: orNull,
    iv7: orNull,
    iv30: orNull,
    iv30Uncertainty: orNull.describe('one standard error, as the quotes let it be known; so are the others'),
    iv60: orNull,
    iv90: orNull,
    iv180: orNull,
    iv360: orNull,
    varianceIndex: orNull.describe('30 days, by the strip of options, in per cent as it is published'),
    riskReversal25: orNull.describe('call less put, 25 delta at 30 days'),
    riskReversal25Uncertainty: orNull,
    butterfly25: orNull.describe('their middle over iv30'),
    riskReversal10: orNull,
    butterfly10: orNull,
    termSlope: orNull,
    frontExpiry: day.nullable(),
    frontStraddleMove: orNull.describe('of the first expiry, by the straddle at the forward'),
    frontStraddleUncertainty: orNull,
    frontDeviationMove: orNull,
    contracts: number,
    usable: number,
    volume: orNull,
    putVolume: orNull,
    openInterest: orNull,
    putOpenInterest: orNull,
    rmse: orNull.describe('fit error over all expiries, a decimal vol'),
    quality: orNull.describe('0…100'),
  })
  .meta({ id: 'SnapshotSummary' });

export const DoubtfulQuery = z.object({ format: z.enum(['json', 'csv']).optional() });

export const DoubtfulResponse = z
  .object({
    symbol: z.string(),
    doubtful: z.array(
      z.object({
        asof: moment.describe('the last moment of the session'),
        day,
        sessions: number.describe('for how many sessions it is away, one or two'),
        measure: z.enum(DOUBTED_MEASURES).describe('straddleRatio: the front straddle over one deviation'),
        value: number,
        usual: number.describe('what it is before and after, in the middle'),
        errors: orNull.describe('by how many standard errors it is away'),
      }),
    ),
  })
  .meta({ id: 'Doubtful', description: 'Measures that move and come back while nothing else does' });

export const SnapshotsResponse = z.object({ snapshots: z.array(SnapshotSummary) }).meta({ id: 'SnapshotsResponse' });

const SideColumns = z.object({
  bid: column,
  ask: column,
  bidSize: column,
  askSize: column,
  last: column,
  volume: column,
  openInterest: column,
});

export const CurveParameters = z
  .object({
    kind: z.enum(CURVE_KINDS),
    years: number,
    forward: number,
    parameters: z.array(number),
  })
  .describe(
    'total variance over k = ln(K/F). svi, svi3 (three of five parameters free) and flat: a, b, ρ, m, σ of a + b(ρ(k − m) + √((k − m)² + σ²)); mixture: weight, multiple of the forward and deviation σ√T of each lognormal state',
  )
  .meta({ id: 'Curve' });

const finite = z.number().finite();

/** Of what somebody keeps: whoever changes it says which version he has seen, and gets 409 where it is another by now. */
const version = z
  .int()
  .min(1)
  .max(2 ** 31 - 1)
  .describe('counted up with every change');

export const Borrowing = z
  .object({
    source: symbol.describe('that of the underlying that lends'),
    sourceExpiry: named.nullable().default(null).describe('null: the nearest in time'),
    map: z
      .enum(BORROW_MAPS)
      .default('forward')
      .describe(
        'forward: at as many per cent of the forward; standardized: at as many deviations; price: own strike K where the source has ratio·K + offset',
      ),
    ratio: finite.positive().nullable().default(null).describe('for price; null: that of the forwards'),
    offset: finite.default(0).describe("for price, in the source's money"),
    volShift: finite.min(-1).max(1).default(0).describe('added to the vol, a decimal'),
    slope: finite.min(-1).max(1).default(0).describe('added for a deviation over the forward, levels off at three'),
    curvature: finite.min(-1).max(1).default(0).describe('added for the square of a deviation, levels off likewise'),
  })
  .meta({ id: 'Borrowing' });

export const BorrowingRequest = z.object({
  expiry: day,
  settlement: unsaid,
  borrowing: Borrowing.nullable().describe('null gives the expiry its own curve back'),
  version: version.nullable().describe('of what it borrows now; null for nothing'),
});

export const BorrowingsResponse = z
  .object({
    borrowings: z.array(Borrowing.extend({ symbol: z.string(), expiry: day, settlement, version })),
  })
  .meta({ id: 'Borrowings' });

export const Fit = z
  .object({
    expiry: day,
    settlement,
    years: number,
    days: number,
    sessions: number,
    rate: number,
    discount: number,
    forward: orNull,
    forwardSource: z.enum(['parity', 'carry']),
    forwardUncertainty: orNull.describe('one standard error, in price units'),
    curve: CurveParameters.nullable(),
    shape: z
      .enum(CURVE_SHAPES)
      .describe('where the shape of the curve comes from: its own quotes, an expiry beside it, the session before'),
    rmse: orNull,
    errorInHalfSpreads: orNull,
    atmVol: orNull,
    atmVolUncertainty: orNull.describe('one standard error, as the quotes let it be known'),
    riskReversal25: orNull.describe('null for a curve that says one vol only'),
    riskReversal25Uncertainty: orNull,
    butterfly25: orNull,
    riskReversal10: orNull,
    butterfly10: orNull,
    straddleMove: orNull.describe('the straddle at the forward, in money'),
    straddleUncertainty: orNull,
    deviationMove: orNull,
    contracts: number,
    usable: number,
    refused: z.array(number).describe(`contracts by reason: ${REASONS.join(', ')}`),
    aside: z
      .array(z.object({ side, strike: number, reason: number }))
      .describe('contracts with a vol that are not used, with the code of the reason'),
    expiryAside: z
      .enum(EXPIRY_ASIDES)
      .nullable()
      .describe('why the whole expiry is not used in the measures of its underlying'),
    quality: orNull.describe('0…100'),
    borrowed: Borrowing.extend({ version, takenFrom: named, isArbitrageFree: z.boolean() })
      .optional()
      .describe('where the curve is taken from, when it is not its own'),
    qualityParts: z
      .object({ usable: number, spread: number, fit: number, coverage: number, fresh: number })
      .describe('each 0…1'),
  })
  .meta({ id: 'Fit' });

export const VerdictRequest = z
  .object({
    asof: moment,
    expiry: day,
    settlement: unsaid,
    strike: number.optional().describe('without strike and side the whole expiry'),
    side: side.optional(),
    verdict: z
      .enum(['use', 'aside'])
      .nullable()
      .describe('null takes back what was said, of this moment and of earlier ones to last'),
    lasting: z
      .boolean()
      .default(false)
      .describe('whether it holds for all later moments; those held are derived anew by a task'),
    wasAside: z
      .boolean()
      .optional()
      .describe('whether it was set aside by hand when it was looked at; where that is otherwise by now, 409'),
  })
  .refine(({ strike, side }) => (strike === undefined) === (side === undefined), {
    message: 'strike and side go together',
    path: ['side'],
  });

export const SnapshotResponse = z
  .object({
    symbol: z.string(),
    asof: moment,
    kind: z.enum(KINDS),
    exercise: z.enum(EXERCISES),
    price: orNull,
    measures: SnapshotSummary,
    slices: z.array(z.object({ strike: z.array(number), call: SideColumns, put: SideColumns, fit: Fit })),
  })
  .meta({ id: 'Snapshot', description: 'A whole snapshot as columns, with the fit of each expiry' });

export const ExpectedMovesQuery = AsofQuery.extend({
  from: moment
    .optional()
    .describe('sessions from here on to the as-of, each by its last moment; the as-of alone without'),
});

export const KnownMove = z
  .object({
    asof: moment,
    day,
    price: orNull,
    expiry: day,
    settlement,
    days: number,
    sessions: number,
    forward: orNull,
    atmVol: orNull,
    straddle: orNull.describe('expected move by the straddle at the money, in money'),
    deviation: orNull.describe('one standard deviation, F·σ·√T'),
    isAside: z.boolean().describe('whether the expiry is set aside'),
  })
  .meta({ id: 'KnownMove' });

export const ExpectedMovesResponse = z
  .object({ symbol: z.string(), moves: z.array(KnownMove) })
  .meta({ id: 'ExpectedMoves' });

const MOST_SESSIONS = 1000;

export const OpenContractsQuery = AsofQuery.extend({
  expiry: day,
  settlement: unsaid,
  sessions: z.coerce.number().int().min(1).max(MOST_SESSIONS).optional().describe('of the path; 20 unless given'),
});

export const OpenContractsResponse = z
  .object({
    symbol: z.string(),
    expiry: day,
    settlement,
    asof: moment,
    strikes: z.array(z.object({ strike: number, callOpenInterest: number, putOpenInterest: number })),
    path: z
      .array(
        z.object({
          asof: moment,
          day,
          price: orNull,
          strike: orNull.describe('where the open contracts were worth least'),
          callOpenInterest: number,
          putOpenInterest: number,
        }),
      )
      .describe('a row for each session, the last moment of it'),
  })
  .meta({ id: 'OpenContracts' });

const MOST_PRINTS = 20_000;

export const IntradayBarsQuery = z.object({
  asof: moment.optional().describe('bars of its day that begin before it; the latest moment held unless given'),
  format: z.enum(['json', 'csv']).optional(),
});

export const IntradayBarsResponse = z
  .object({
    symbol: z.string(),
    day,
    minutes: number,
    bars: z.array(
      z.object({
        time: moment.describe('its beginning'),
        open: number,
        high: number,
        low: number,
        close: number,
        volume: orNull,
      }),
    ),
  })
  .meta({ id: 'IntradayBars' });

export const TapeRequestQuery = z.object({
  from: moment.optional().describe('the day of `to` unless given'),
  to: moment.optional().describe('the latest print unless given'),
  size: z.coerce.number().min(0).optional().describe('the smallest size'),
  legs: z.enum(['all', 'single', 'several']).optional().describe('several: legs of one trade'),
  against: z.enum(['all', 'above', 'below']).optional().describe('those over theory at their time, or under it'),
  most: z.coerce.number().int().min(1).max(MOST_PRINTS).optional().describe('2000 unless given'),
  format: z.enum(['json', 'csv']).optional(),
});

export const TapeResponse = z
  .object({
    symbol: z.string(),
    from: moment,
    to: moment,
    count: number.describe('of those that meet the query'),
    balance: z
      .object({
        above: number.describe('contracts over theory'),
        below: number,
        mean: orNull.describe('distance from theory, weighted by size'),
      })
      .describe('of all that meet the query'),
    prints: z
      .array(
        z.object({
          time: moment,
          expiry: day,
          settlement: settlement.nullable().describe('null where it is not said and nothing of that day is held'),
          strike: number,
          side,
          price: number,
          size: number,
          group: z.string().nullable().describe('legs of one trade share it'),
          theory: orNull.describe('on the curve of the last moment held at its time'),
          bid: orNull.describe('at that moment'),
          ask: orNull,
          theoryAt: moment.nullable(),
        }),
      )
      .describe('the latest first'),
  })
  .meta({ id: 'Tape' });

const MOST_LEGS = 8;
const MOST_NOTE = 2000;
const MOST_QUANTITY = 1e6;

const LegRequest = z.object({
  expiry: day,
  settlement: unsaid,
  strike: number,
  side,
  quantity: z
    .int()
    .min(-MOST_QUANTITY)
    .max(MOST_QUANTITY)
    .refine((n) => n !== 0, 'must not be 0'),
});

const structureQuantity = z.int().min(-MOST_QUANTITY).max(MOST_QUANTITY);
const structureNote = z.string().max(MOST_NOTE);

export const StructureRequest = z
  .object({
    symbol,
    legs: z.array(LegRequest).min(1).max(MOST_LEGS),
    quantity: structureQuantity.default(1),
    note: structureNote.default(''),
    asof: moment.optional().describe('priced at the latest moment at or before it'),
  })
  .meta({ id: 'StructureRequest' });

export const StructureChange = z
  .object({ version, quantity: structureQuantity.optional(), note: structureNote.optional() })
  .meta({ id: 'StructureChange' });

const StructureNow = z.object({
  asof: moment,
  price: orNull,
  multiplier: number,
  missing: z.string().nullable().describe('why there are no values'),
  value: orNull.optional().describe('theory on the curve, for one unit; costs are positive where money is paid'),
  worst: orNull.optional(),
  mid: orNull.optional(),
  best: orNull.optional(),
  delta: orNull.optional(),
  gamma: orNull.optional(),
  theta: orNull.optional(),
  vega: orNull.optional(),
  skew: orNull.optional().describe('for a point of 25-delta risk reversal'),
  curvature: orNull.optional().describe('for a point of 25-delta butterfly'),
});

export const StructuresResponse = z
  .object({
    structures: z.array(
      z.object({
        id: number,
        symbol: z.string(),
        legs: z.array(LegRequest.extend({ settlement })),
        quantity: number,
        note: z.string(),
        asof: moment.describe('when it was priced'),
        value: orNull,
        mid: orNull,
        version,
        created: moment,
        changed: moment,
        now: StructureNow.nullable(),
      }),
    ),
  })
  .meta({ id: 'Structures' });

export const ChainQuery = AsofQuery.extend({
  expiry: day.optional(),
  settlement: settlement.optional().describe('of the expiry: both series of a day unless given'),
  basis: z.enum(BASES).optional().describe('curve unless given'),
  vol: z.coerce.number().positive().max(5).optional().describe('one vol for all strikes, for manual; a decimal'),
  shift: z.coerce.number().min(-5).max(5).optional().describe('or what is added to every curve'),
  hv: z.string().optional().describe('the vol of realized, by the names of formulas: hv20.yz unless given, hv60.pk'),
  layout: z
    .enum(['rows', 'columns'])
    .optional()
    .describe('of the contracts: an object each (rows), or a list for each field'),
});

export const ChainContract = z
  .object({
    expiry: day,
    settlement,
    strike: number,
    side,
    bid: orNull,
    ask: orNull,
    mid: orNull,
    bidVol: orNull,
    midVol: orNull,
    askVol: orNull,
    reason: z.enum(REASONS).nullable().describe('why the quote has no vol'),
    vol: orNull.describe('the vol of the basis'),
    theory: orNull,
    delta: orNull,
    gamma: orNull,
    theta: orNull,
    vega: orNull,
    rho: orNull,
    itm: orNull,
    touch: orNull.describe('odds that the price reaches the strike, by the vol at the strike'),
    breakEven: orNull.describe('odds to end beyond strike ± mid'),
    last: orNull,
    volume: orNull,
    openInterest: orNull,
  })
  .meta({ id: 'ChainContract' });

export const ChainResponse = z
  .object({
    symbol: z.string(),
    asof: moment,
    price: orNull,
    basis: z.enum(BASES),
    expiries: z.array(Fit),
    contracts: z.array(ChainContract),
  })
  .meta({ id: 'Chain' });

/** The same with a list for each field of the contracts, which is a third as long. */
export const ChainColumnsResponse = ChainResponse.extend({
  contracts: z.record(z.string(), z.array(z.union([z.string(), number]).nullable())),
}).meta({ id: 'ChainColumns' });

export const SurfacePoint = z.object({
  strike: number,
  side,
  logMoneyness: number,
  standardized: orNull,
  bidVol: orNull,
  midVol: number,
  askVol: orNull,
  curveVol: orNull,
});

export const SurfaceResponse = z
  .object({
    symbol: z.string(),
    asof: moment,
    price: orNull,
    slices: z.array(Fit.extend({ points: z.array(SurfacePoint).describe('out-of-the-money side at each strike') })),
    term: z.array(
      z.object({
        expiry: day,
        days: number,
        class: z.enum(['weekly', 'monthly', 'quarterly']),
        atmVol: orNull,
        forwardVol: orNull.describe('from the expiry before; null where its variance is negative'),
        ambientVol: orNull.describe('vol of the stretch before it without what announcements carry'),
        eventMove: orNull.describe('one deviation of each announcement of that stretch, as a share of the price'),
        slope: orNull.describe('vol for ten points of delta up in strike, at the forward'),
        lean: z
          .enum(['put-rich', 'call-rich', 'even'])
          .nullable()
          .describe('by the 25-delta risk reversal, half a point at least; null where there is none'),
      }),
    ),
    calendarArbitrage: z.array(z.object({ near: day, far: day })),
  })
  .meta({ id: 'Surface' });

export const CurvesQuery = z.object({
  from: moment,
  to: moment,
  step: z.enum(['session', 'moment']).optional().describe('the last moment of each session unless given'),
  strikes: z.coerce
    .number()
    .int()
    .min(0)
    .max(100)
    .optional()
    .describe('how many listed strikes either side of the forward come along; none unless given'),
  own: z
    .enum(['true', 'false'])
    .optional()
    .describe('whether every expiry shows its own curve, also where it borrows one; false unless given'),
});

export const CurvesResponse = z
  .object({
    symbol: z.string(),
    moments: z.array(moment),
    expiries: z.object({
      moment: z.array(number).describe('position in moments'),
      expiry: z.array(day),
      settlement: z.array(settlement),
      years: z.array(number),
      days: z.array(number),
      sessions: z.array(number),
      rate: z.array(number),
      forward: column,
      kind: z.array(z.enum(CURVE_KINDS).nullable()),
      parameters: z.array(z.array(number).nullable()).describe('as in Curve'),
      atmVol: column,
      riskReversal25: column,
      butterfly25: column,
      riskReversal10: column,
      butterfly10: column,
      straddleMove: column,
      deviationMove: column,
      contracts: z.array(number),
      usable: z.array(number),
      borrowedFrom: z.array(z.string().nullable()).describe('symbol and expiry of a curve that is not its own'),
      expiryAside: z.array(z.enum(EXPIRY_ASIDES).nullable()),
      lowest: column.describe('the first strike that is listed'),
      highest: column.describe('the last one'),
      near: z.array(z.array(number).nullable()).describe('listed strikes around the forward, where asked for'),
    }),
  })
  .meta({ id: 'Curves', description: 'Fitted curves and their measures over time, as columns' });

export const HistoryQuery = z.object({
  from: day.optional(),
  to: day.optional(),
  series: z.string().optional().describe('names separated by commas, such as iv30,hv20.yz,close'),
  format: z.enum(['json', 'csv']).optional(),
});

export const HistoryResponse = z
  .object({
    symbol: z.string(),
    series: z.array(z.string()),
    rows: z.array(z.object({ date: day, asof: moment.nullable() }).catchall(orNull)),
  })
  .meta({ id: 'History' });

const formula = z.string().max(500);

const kind = z.enum(['index', 'etf', 'equity', 'future', 'fx']);
const MOST_COLUMNS = 64;
const MOST_FILTERS = 24;

export const KeptScreenRequest = z
  .object({
    name: z.string().trim().min(1).max(60),
    columns: z
      .array(formula)
      .max(MOST_COLUMNS)
      .describe('formulas; with ~ before it one is drawn as a line; flags, kind, family; * for the usual ones'),
    filters: z.array(formula).max(MOST_FILTERS),
    kinds: z.array(kind).max(5).default([]),
    families: z.array(z.string()).max(100).default([]),
    sort: z.string().max(520).default('').describe('a column, with | rising behind it where it rises'),
    version: version.nullable().default(null).describe('of the one that is changed; null for a new one'),
  })
  .refine(({ columns, filters }) => columns.length + filters.length > 0, {
    message: 'a screen has a column or a filter at least',
    path: ['columns'],
  })
  .meta({ id: 'KeptScreenRequest' });

export const KeptScreensResponse = z
  .object({
    screens: z.array(
      z.object({
        id: number,
        name: z.string(),
        columns: z.array(z.string()),
        filters: z.array(z.string()),
        kinds: z.array(z.string()),
        families: z.array(z.string()),
        sort: z.string(),
        version,
        changed: moment,
      }),
    ),
  })
  .meta({ id: 'KeptScreens' });

const sessionsOfSeries = z.number().int().min(1).max(504);

export const ScreenRequest = z
  .object({
    asof: moment.optional().describe('the latest of each underlying unless given'),
    columns: z
      .array(formula)
      .max(MOST_COLUMNS)
      .default([])
      .describe('formulas that are worked out for every underlying'),
    filters: z.array(formula).max(MOST_FILTERS).default([]).describe('conditions; what cannot be known does not pass'),
    series: z.array(formula).max(4).default([]).describe('formulas that are worked out for every session'),
    sessions: sessionsOfSeries.default(120).describe('of the series, the last ones'),
    symbols: z.array(symbol).max(10_000).optional().describe('only these are looked at'),
    kinds: z.array(kind).default([]).describe('only these kinds; all where none is named'),
    families: z.array(z.string()).default([]).describe('only these families'),
    sort: z
      .object({ by: formula.describe('a formula, or symbol'), descending: z.boolean().default(true) })
      .optional()
      .describe('order of the rows, by symbol unless given; what cannot be known comes last'),
    from: z.number().int().min(0).default(0).describe('rows before it are left out'),
    count: z.number().int().min(0).max(10_000).optional().describe('rows at most'),
  })
  .meta({ id: 'ScreenRequest' });

const manySymbols = z.array(symbol).min(1).max(60);

export const SkewsRequest = z
  .object({ symbols: manySymbols, asof: moment.optional(), days: z.number().positive().max(3650).default(30) })
  .meta({ id: 'SkewsRequest' });

export const SkewsResponse = z
  .object({
    deviations: z.array(number).describe('ln(K/F)/(σ√T) with the vol at the money'),
    skews: z.array(
      z.object({
        symbol: z.string(),
        asof: moment,
        expiry: day.describe('the one nearest to the days'),
        days: number,
        forward: orNull,
        atmVol: orNull,
        vols: column.describe('by deviation; null beyond the listed strikes'),
        borrowedFrom: z.string().nullable(),
      }),
    ),
  })
  .meta({ id: 'Skews' });

export const PeersQuery = z.object({
  asof: moment.optional(),
  sessions: z.coerce.number().int().min(20).max(504).default(120).describe('over which they are compared'),
  count: z.coerce.number().int().min(1).max(40).default(12),
  apart: z.enum(['true', 'false']).default('false').describe('leave its own family out'),
  alike: z.enum(['true', 'false']).default('false').describe('leave other kinds out'),
});

const square = z.array(z.array(orNull));

export const PeersResponse = z
  .object({
    symbol: z.string(),
    sessions: number.describe('fewer than asked for where fewer are held'),
    measures: z.array(z.string()).describe('names of what stands beside each'),
    own: z.array(orNull),
    peers: z
      .array(
        z.object({
          symbol: z.string(),
          name: z.string(),
          kind,
          isSameKind: z.boolean(),
          isSameFamily: z.boolean(),
          closeness: number.describe('mean of both correlations, or the one that is known'),
          returns: orNull.describe('correlation of returns by session'),
          vols: orNull.describe('correlation of the changes of iv30'),
          pairs: number.describe('sessions that both have'),
          beta: orNull.describe('slope of its returns on those of the underlying'),
          impliedBeta: orNull.describe('the correlation times the ratio of iv30'),
          measures: z.array(orNull),
        }),
      )
      .describe('the nearest first; of each other family one'),
    performance: z.object({
      days: z.array(day),
      lines: z.array(z.object({ symbol: z.string(), values: z.array(orNull) })).describe('closes, the first as 100'),
    }),
    together: z.object({ symbols: z.array(z.string()), returns: square, vols: square }).describe('all by all'),
  })
  .meta({ id: 'Peers' });

export const ConesRequest = z
  .object({ symbols: manySymbols, asof: moment.optional(), estimator: z.enum(ESTIMATORS).default('yang-zhang') })
  .meta({ id: 'ConesRequest' });

export const ConesResponse = z
  .object({
    windows: z.array(number).describe('sessions'),
    sessions: z.array(number).describe('of the term structure, as days of the calendar have them'),
    cones: z.array(
      z.object({
        symbol: z.string(),
        bars: number.describe('that the windows are taken from, 504 at most'),
        quantiles: z.array(z.array(orNull)).describe(`by window, of the shares ${CONE_SHARES.join(', ')}`),
        now: column.describe('by window'),
        term: column.describe('vols at the money by session ahead'),
      }),
    ),
  })
  .meta({ id: 'Cones' });

const several = z
  .union([z.string(), z.array(z.string())])
  .optional()
  .transform((value) => (value === undefined ? [] : [value].flat()));

export const ScreenQuery = z.object({
  asof: moment.optional(),
  column: several.describe('a formula; once for each column'),
  filter: several.describe('a condition; once for each'),
  kind: several.pipe(z.array(kind)),
  family: several,
  sort: formula.optional().describe('a formula, or symbol'),
  order: z.enum(['falling', 'rising']).default('falling'),
  count: z.coerce.number().int().min(0).max(10_000).optional(),
  format: z.enum(['json', 'csv']).optional(),
});

export const ScreenResponse = z
  .object({
    columns: z.array(z.object({ formula: z.string(), unit: z.string(), kind: z.enum(['truth', 'number']) })),
    filters: z.array(
      z.object({ formula: z.string(), removed: number.describe('underlyings that this filter alone leaves out') }),
    ),
    looked: number.describe('underlyings that were looked at'),
    left: number.describe('those that pass all filters'),
    rows: z
      .array(
        z.object({
          symbol: z.string(),
          name: z.string(),
          kind,
          asof: moment.nullable().describe('its moment; null where none is held'),
          frontExpiry: day.nullable(),
          event: z.object({ start: moment, title: z.string() }).nullable().describe('the next announcement'),
          columns: z.array(orNull),
          series: z.array(z.array(orNull)).describe('by series and session, the last at the end'),
        }),
      )
      .describe('underlyings that are left, in their order'),
  })
  .meta({ id: 'Screen' });

export const EventsResponse = z
  .object({
    events: z.array(
      z.object({ date: day, start: moment.nullable(), title: z.string(), kind: z.string(), amount: orNull }),
    ),
  })
  .meta({ id: 'Events' });

const truth = z.enum(['true', 'false']).optional();

export const Conventions = z
  .object({
    delimiter: z
      .enum([',', ';', '\t', '|'])
      .optional()
      .describe('between the cells of a CSV file; told from the header'),
    decimal: z.enum(['.', ',']).optional().describe('told from the cells where that can be'),
    dates: z.enum(['iso', 'dmy', 'mdy']).optional().describe('order of the parts of a day; told where that can be'),
    zone: z
      .string()
      .refine((name) => IANAZone.isValidZone(name), 'is no IANA zone')
      .optional()
      .describe('of times that name none; without it that of the exchange'),
  })
  .meta({ id: 'Conventions' });

export const ImportQuery = Conventions.extend({
  name: z.string().optional().describe('name of the file, for the record'),
  acceptBadRows: truth.describe(
    'import the good rows of a file that has bad ones; without it such a file changes nothing',
  ),
  hold: truth.describe('keep the file and wait, for its preview and check'),
});

/** How a file is to be read. */
export const ImportSettings = z
  .object({
    kind: z.enum(FILE_KINDS).optional(),
    columns: z.record(z.string(), z.string()).optional().describe('our columns by the names in the file'),
    conventions: Conventions.optional(),
    acceptBadRows: z.boolean().optional(),
  })
  .refine(({ kind, columns }) => (kind === undefined) === (columns === undefined), {
    message: 'kind and columns go together',
    path: ['columns'],
  });

const ReadablePreview = z
  .object({
    format: z.enum(['csv', 'json', 'parquet', 'xlsx', 'ics']),
    header: z.array(z.string()),
    kind: z.enum(FILE_KINDS),
    columns: z.record(z.string(), z.string()),
    isSure: z.boolean().describe('the names are ours, or were matched so before'),
    missing: z.array(z.string()).describe('required columns that nothing stands for'),
    conventions: Conventions,
    open: z.array(z.object({ convention: z.enum(['decimal', 'dates']), column: z.string(), example: z.string() })),
    rows: z.array(
      z.object({ number, cells: z.array(z.string()), read: z.array(z.string()).describe('as they are understood') }),
    ),
  })
  .meta({ id: 'ReadablePreview' });

export const ImportPreview = z
  .union([ReadablePreview, z.object({ problem: z.string().describe('why the file cannot be read') })])
  .meta({ id: 'ImportPreview' });

export const ImportSummary = z
  .object({
    id: number,
    file: z.string(),
    bytes: number,
    bytesRead: number,
    what: z.string().nullable().describe('kind of file, told from its header'),
    format: z.string().nullable(),
    status: z.enum(IMPORT_STATES),
    detail: z.string().nullable(),
    rows: number,
    badRows: number,
    acceptBadRows: z.boolean(),
    counts: z.record(z.string(), number),
    ignoredColumns: z.array(z.string()),
    isKept: z.boolean().describe('whether the file itself is still there, to be imported again'),
    started: moment,
    finished: moment.nullable(),
  })
  .meta({ id: 'ImportSummary' });

export const ImportRecord = ImportSummary.extend({
  errors: z.array(z.object({ row: number, column: z.string(), value: z.string(), reason: z.string() })),
}).meta({ id: 'Import' });

export const ImportsResponse = z.object({ imports: z.array(ImportSummary) }).meta({ id: 'Imports' });

export const HoldingsResponse = z
  .object({
    sessions: z.array(day).describe('from the first day held to the last, by the calendar of the exchange'),
    underlyings: z.array(
      z.object({
        symbol: z.string(),
        name: z.string(),
        moments: z.array(number).describe('snapshots on each session'),
        contracts: z.array(number).describe('in the last snapshot of each session'),
        usable: z.array(number).describe('contracts of these with an implied vol'),
        quality: z.array(orNull).describe('0…100, of the last snapshot of each session'),
        holes: z.array(day).describe('sessions without a snapshot between the first and the last that has one'),
        bars: number,
        prints: number,
      }),
    ),
  })
  .meta({ id: 'Holdings' });

const bound = z.union([day, moment]);

export const ExportQuery = z.object({
  symbol: symbolList.optional().describe('symbols, separated by commas; all when not given'),
  asof: moment.optional().describe('one moment alone'),
  from: bound.optional(),
  to: bound.optional(),
});

const ofSymbols = z.array(symbol).max(10_000).optional().describe('all underlyings when not given');

export const TaskRequest = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('rebuild'), symbols: ofSymbols }),
  z.object({
    kind: z.literal('export'),
    file: z.string().describe('as in /exports, such as chain.parquet'),
    symbols: ofSymbols,
    asof: moment.optional().describe('one moment alone'),
    from: bound.optional(),
    to: bound.optional(),
  }),
]);

export const TaskRecord = z
  .object({
    id: number,
    kind: z.enum(['demo', 'rebuild', 'export']),
    status: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
    done: number,
    total: number,
    detail: z.string().nullable(),
    file: z.string().nullable().describe('name of the file that it makes'),
    fileBytes: z.number().nullable().describe('its size, when it is there: /tasks/{id}/file'),
    started: moment,
    finished: moment.nullable(),
  })
  .meta({ id: 'Task' });

const cell = z.union([z.string(), number, z.null()]);

export const ViewTable = z
  .object({
    columns: z
      .array(z.object({ name: z.string().min(1), type: z.enum(['text', 'number', 'day', 'instant']) }))
      .min(1)
      .max(200),
    rows: z.array(z.array(cell)).max(500_000),
  })
  .superRefine(({ columns, rows }, context) => {
    const isWrong = (row: (string | number | null)[]) =>
      row.length !== columns.length ||
      row.some((value, i) => value !== null && (typeof value === 'number') !== (columns[i]!.type === 'number'));
    const at = rows.findIndex(isWrong);
    if (at >= 0) {
      context.addIssue({ code: 'custom', path: ['rows', at], message: 'the cells are not those of the columns' });
    }
  })
  .describe('a table of any columns; numbers are numbers, everything else is text');

export const TasksResponse = z.object({ tasks: z.array(TaskRecord) }).meta({ id: 'Tasks' });

export const FeedRequest = z
  .object({
    action: z.enum(['start', 'stop', 'reset']),
    speed: z.number().min(1).max(60).optional().describe('seconds of the market per second; 1 when not given'),
  })
  .describe('start goes on, or changes the speed; reset takes back everything that the feed has stored');

export const FeedResponse = z
  .object({
    status: z.enum(['running', 'stopped']),
    speed: number,
    moment: moment.describe('of the market, by now'),
    storedTo: moment.describe('everything up to this moment of the market is stored'),
    isBegun: z.boolean().describe('whether anything of it may be held'),
    importId: z.number().nullable().describe('the import under which it is held'),
    isKept: z.boolean().describe('whether a worker looks after it; without one the market stands still'),
  })
  .meta({ id: 'Feed' });

export const StreamQuery = z.object({
  symbols: symbolList.optional().describe('underlyings whose snapshots are sent, separated by commas'),
});

export const StreamPrices = z.object({ moment, prices: z.record(z.string(), number) }).meta({ id: 'StreamPrices' });
