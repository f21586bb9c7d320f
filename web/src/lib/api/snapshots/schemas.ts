/** Snapshots: quotes, fits and curves at a moment, and what people decide about them. */
import {
  BASES,
  BORROW_MAPS,
  CURVE_KINDS,
  CURVE_SHAPES,
  DOUBTED_MEASURES,
  EXPIRY_ASIDES,
  FIT_NUMBERS,
  mapFields,
  MEASURE_NUMBERS,
  namesOf,
  PAST_NUMBERS,
  REASONS,
} from '@umwelt/core';
import { z } from 'zod';
import {
  AsofQuery,
  day,
  exercise,
  finite,
  kind,
  moment,
  named,
  number,
  orNull,
  settlement,
  side,
  symbol,
  truth,
  unsaid,
  version,
} from '../shared';

export const column = z.array(orNull).describe('aligned with the strikes; null where there is none');

/** Numbers that may be missing, each described. */
function numbersOf<Name extends string>(table: Readonly<Record<Name, string>>) {
  return mapFields(table, namesOf(table), (words) => orNull.describe(words));
}

export const SnapshotSummary = z
  .object({
    asof: moment,
    ...numbersOf(MEASURE_NUMBERS),
    frontExpiry: day.nullable(),
    contracts: number,
    usable: number,
  })
  .meta({ id: 'SnapshotSummary' });

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
    ...numbersOf(FIT_NUMBERS),
    forwardSource: z.enum(['parity', 'carry']),
    curve: CurveParameters.nullable(),
    shape: z
      .enum(CURVE_SHAPES)
      .describe('where the shape of the curve comes from: its own quotes, an expiry beside it, the session before'),
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
    borrowed: Borrowing.extend({ version: version.optional(), takenFrom: named, isArbitrageFree: z.boolean() })
      .optional()
      .describe('where the curve is taken from, when it is not its own'),
    qualityParts: z
      .object({ usable: number, spread: number, fit: number, coverage: number, fresh: number })
      .describe('each 0…1'),
  })
  .meta({ id: 'Fit' });

export const ExclusionRequest = z
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
    kind,
    exercise,
    price: orNull,
    measures: SnapshotSummary,
    slices: z.array(z.object({ strike: z.array(number), call: SideColumns, put: SideColumns, fit: Fit })),
  })
  .meta({ id: 'Snapshot', description: 'A whole snapshot as columns, with the fit of each expiry' });

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
        settlement,
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
    calendarArbitrage: z.array(z.object({ near: named, far: named })),
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
  own: truth.describe('whether every expiry shows its own curve, also where it borrows one; false unless given'),
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
      kind: z.array(z.enum(CURVE_KINDS).nullable()),
      parameters: z.array(z.array(number).nullable()).describe('as in Curve'),
      ...mapFields(FIT_NUMBERS, PAST_NUMBERS, (words) => column.describe(words)),
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
