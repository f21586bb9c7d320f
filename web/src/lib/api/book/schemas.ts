/** Books: positions, what was traded of them, what they are worth, and what scenarios would bring. Money is for the whole. */
import { GRID_SCALES, LIMITED, PROFIT_PARTS, SETTLEMENTS, WORTH_BY, type RISK_LEVELS } from '@umwelt/core';
import { z } from 'zod';
import {
  day,
  exercise,
  format,
  kind,
  moment,
  number,
  orNull,
  settlement,
  side,
  symbol,
  unsaid,
  version,
} from '../shared';

const MOST_NAME = 120;
const MOST_NOTE = 2000;
const MOST_TAG = 40;
const MOST_TAGS = 20;
/** More digits are no number of a JSON document, which is a double. */
const MOST_DIGITS = 15;
const MOST_AMOUNT = 1e12;
/** Trades that are booked as one. */
const MOST_FILLS = 50;

const exact = number
  .min(-MOST_AMOUNT)
  .max(MOST_AMOUNT)
  .refine(
    (value) => value.toExponential().replace(/e.*|[-.]/g, '').length <= MOST_DIGITS,
    `must have at most ${MOST_DIGITS} digits`,
  );

const name = z.string().trim().min(1, 'must have a name').max(MOST_NAME);
const note = z.string().max(MOST_NOTE);
const tags = z
  .array(z.string().trim().min(1).max(MOST_TAG))
  .max(MOST_TAGS)
  .transform((all) => [...new Set(all)]);
const currency = z.string().regex(/^[A-Z]{3}$/, 'must be a currency like ICR');
const id = z
  .int()
  .min(1)
  .max(2 ** 31 - 1);

const BookLimit = z.object({
  what: z
    .enum(LIMITED)
    .describe('worst: the loss of the worst cell; share: that of one underlying in the absolute delta'),
  most: number.positive().max(MOST_AMOUNT),
});

const limits = z
  .array(BookLimit)
  .max(LIMITED.length)
  .refine((all) => new Set(all.map(({ what }) => what)).size === all.length, 'must name each at most once');

const Book = z.object({
  id,
  name,
  currency,
  note,
  limits: z.array(BookLimit),
  version,
  positions: z.int(),
  undo: z.string().nullable().describe('the change that undoing takes back, in words'),
  redo: z.string().nullable(),
});

export const BooksResponse = z.object({ books: z.array(Book) }).meta({ id: 'Books' });

export const BookRequest = z
  .object({ name, currency, note: note.default(''), limits: limits.default([]) })
  .meta({ id: 'BookRequest' });

export const BookChangeRequest = z
  .object({
    version,
    name: name.optional(),
    currency: currency.optional(),
    note: note.optional(),
    limits: limits.optional(),
  })
  .meta({ id: 'BookChange' });

/** A contract, or the underlying itself. */
const BookedLeg = z
  .object({
    symbol: symbol.optional().describe('of the position unless given'),
    underlying: z.literal(true).optional(),
    expiry: day.optional(),
    settlement: unsaid,
    strike: number.positive().max(MOST_AMOUNT).optional(),
    side: side.optional(),
  })
  .superRefine(({ underlying, expiry, strike, side: named }, context) => {
    const fault = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
    const given = { expiry, strike, side: named };
    for (const [field, value] of Object.entries(given)) {
      if (underlying && value !== undefined) fault(field, 'the underlying has none');
      if (!underlying && value === undefined) fault(field, 'is missing');
    }
  });

const quantity = exact.refine((value) => value !== 0, 'must not be 0').describe('bought is plus');
const price = exact.min(0).describe('of one unit of the underlying');
const fee = exact.default(0).describe('in money');

const FillRequest = z.object({
  time: moment,
  leg: BookedLeg,
  quantity,
  price,
  fee,
  tag: z.string().trim().max(MOST_TAG).default(''),
  closes: z.boolean().default(false).describe('refused where it is beyond what is open'),
  assigned: z.boolean().default(false).describe('an option that was exercised against its seller: at a price of 0'),
});

export const OneFillRequest = FillRequest.extend({ position: id }).meta({ id: 'FillRequest' });

export const FillsRequest = z
  .object({ fills: z.array(FillRequest).min(1).max(MOST_FILLS), words: z.string().trim().max(MOST_NAME).optional() })
  .meta({ id: 'FillsRequest' });

export const FillChangeRequest = z
  .object({
    version,
    time: moment.optional(),
    quantity: quantity.optional(),
    price: price.optional(),
    fee: exact.optional(),
  })
  .meta({ id: 'FillChange' });

export const PositionRequest = z
  .object({
    book: id,
    symbol,
    name,
    tags: tags.default([]),
    note: note.default(''),
    fills: z.array(FillRequest).max(MOST_FILLS).default([]),
  })
  .meta({ id: 'PositionRequest' });

export const PositionChangeRequest = z
  .object({ version, name: name.optional(), tags: tags.optional(), note: note.optional() })
  .meta({ id: 'PositionChange' });

const Booked = z.object({ id, words: z.string() }).describe('what was made, and what the change is called');
export const BookedResponse = Booked.meta({ id: 'Booked' });

export const CashRequest = z
  .object({ time: moment, amount: exact.refine((value) => value !== 0, 'must not be 0'), note: note.default('') })
  .meta({ id: 'CashRequest' });

export const SettlementRequest = z
  .object({ symbol, expiry: day, settlement: z.enum(SETTLEMENTS), price })
  .meta({ id: 'SettlementRequest' });

const worthBy = z
  .enum(WORTH_BY)
  .default('mid')
  .describe('mid: of the quotes, by the curve where they are no market; closing: the side at which it would be closed');

export const WorthQuery = z.object({
  asof: moment.optional().describe('the last moment at or before it; the latest of all when left out'),
  ghost: moment.optional().describe('another moment, that profits are told since'),
  by: worthBy,
  beta: symbol.optional().describe('an underlying that betas are told to'),
});

const Profit = z.object({
  open: orNull,
  realized: number,
  fees: number,
  income: number.describe('dividends of the underlying while it was held'),
  sinceEntry: orNull,
  sinceClose: orNull,
  sinceGhost: orNull,
});

const Fill = z.object({
  id,
  time: moment,
  symbol,
  expiry: z.string().nullable(),
  settlement: settlement.nullable(),
  strike: orNull,
  side: side.nullable(),
  quantity: number,
  price: number,
  fee: number,
  tag: z.string(),
  assigned: z.boolean(),
  version,
});

const Position = z.object({
  id,
  name,
  symbol,
  tags: z.array(z.string()),
  note,
  version,
  opened: moment.nullable(),
  closed: moment.nullable(),
  lots: number.describe('of how many like units it is made; negative where they were sold'),
  entry: orNull.describe('of one of them, for one unit of the underlying'),
  now: orNull,
  value: orNull,
  profit: Profit,
});

const Leg = z.object({
  position: id,
  symbol,
  expiry: z.string().nullable(),
  settlement: settlement.nullable(),
  strike: orNull,
  side: side.nullable().describe('null of the underlying itself'),
  kind: kind.nullable().describe('of the underlying; null where it is not known any more'),
  exercise: exercise.nullable(),
  family: z.string(),
  ratio: orNull.describe('how much one unit moves for one of the first of its family'),
  beta: orNull.describe('of the price of its underlying to that of another one, where that is asked for'),
  quantity: number,
  multiplier: number,
  exchange: orNull.describe('money of the book for one of its currency'),
  entry: orNull,
  price: orNull.describe('of the underlying'),
  ...{ bid: orNull, ask: orNull, mid: orNull, theory: orNull, vol: orNull, days: orNull },
  ...{ delta: orNull, gamma: orNull, theta: orNull, vega: orNull, rho: orNull },
  ...{ vanna: orNull, volga: orNull, charm: orNull, veta: orNull },
  value: orNull,
  ...{ sinceEntry: orNull, sinceClose: orNull, sinceGhost: orNull },
  byCurve: z.boolean().describe('worth its curve, since its quotes are no market'),
  missing: z.string().nullable().describe('why it is not known what it is worth'),
});

export const WorthResponse = z
  .object({
    asof: moment,
    closeBefore: moment,
    ghost: moment.nullable(),
    currency: z.string(),
    cash: number.describe('paid in, less what was paid for what is held, with what came of it'),
    interest: number.describe('what the cash has earned'),
    apart: z.array(z.string()).describe('currencies without an exchange rate: what is in them is part of no sum'),
    positions: z.array(Position),
    legs: z.array(Leg).describe('what is held, and what was, with Greeks of one unit'),
    warnings: z.array(z.object({ position: id, words: z.string() })),
  })
  .meta({ id: 'BookWorth' });

export const PositionResponse = Position.extend({ legs: z.array(Leg), fills: z.array(Fill) }).meta({ id: 'Position' });

export const PositionsQuery = WorthQuery.extend({ book: z.coerce.number().pipe(id), format });

export const PositionsResponse = z.object({ positions: z.array(Position) }).meta({ id: 'Positions' });

const Sums = z.object({
  ...{ value: number, delta: number, gamma: number, vega: number, vegaRoot: number, theta: number, rho: number },
  ...{ vanna: number, charm: number, volga: number, veta: number },
  profit: z.object({ entry: orNull, day: orNull, ghost: orNull }),
  missing: z.int().describe('legs whose worth is not known, which are part of no sum'),
});

const BOOK_LEVELS = [
  'family',
  'underlying',
  'expiry',
  'strike',
] as const satisfies readonly (typeof RISK_LEVELS)[number][];

export const BookRiskQuery = WorthQuery.omit({ by: true, beta: true }).extend({
  by: z.enum(BOOK_LEVELS).default('family'),
  in: symbol.optional().describe('an underlying of the book, in whose price all of its family is told'),
  format,
});

export const BookRiskResponse = z
  .object({
    asof: moment,
    rows: z.array(
      Sums.extend({
        family: z.string(),
        symbol: z.string().optional(),
        expiry: z.string().optional().describe('blank of the underlying itself'),
        strike: z.string().optional(),
      }),
    ),
    total: Sums,
  })
  .meta({ id: 'BookRisk' });

const LIVED_BY = ['mid', 'curve'] as const;

export const ExplainQuery = z.object({
  from: moment,
  to: moment,
  method: z.enum(['turn', 'averaged']).default('turn').describe('averaged: over all orders of the changes (Shapley)'),
  by: z.enum(LIVED_BY).default('mid').describe('what legs are worth'),
  step: z.enum(['session', 'moment']).optional().describe('told stretch by stretch beside the whole; of one position'),
});

const LivedParts = z.object(
  Object.fromEntries(PROFIT_PARTS.map((name) => [name, number])) as Record<
    (typeof PROFIT_PARTS)[number],
    typeof number
  >,
);

export const ExplainResponse = z
  .object({
    from: moment,
    to: moment,
    change: number,
    parts: z.array(z.object({ name: z.enum(PROFIT_PARTS), inTurn: number, byGreeks: number })),
    rest: number.describe('change of mids less that of what the curves say; with the parts in turn it is the change'),
    byGreeks: z.object({ delta: number, gamma: number, cross: number, rest: number }),
    positions: z.array(z.object({ id, change: number, parts: LivedParts })),
    legs: z.array(
      z.object({
        position: id,
        symbol,
        expiry: z.string().nullable(),
        settlement: settlement.nullable(),
        strike: orNull,
        side: side.nullable(),
        quantity: number,
        family: z.string(),
        change: number,
        parts: LivedParts,
        byGreeks: LivedParts,
        ...{ delta: number, gamma: number, cross: number },
      }),
    ),
    stretches: z.array(z.object({ to: moment, change: number, parts: LivedParts })),
    missing: z.int().describe('legs whose worth is not known at one of the moments'),
  })
  .meta({ id: 'Explained' });

const MOST_LISTED = 60;

export const ProfitsQuery = z.object({
  ids: z
    .string()
    .regex(/^\d{1,10}(,\d{1,10})*$/, 'must be numbers of positions with commas between them')
    .refine((text) => text.split(',').length <= MOST_LISTED, `must be at most ${MOST_LISTED}`),
  to: moment,
  by: z.enum(LIVED_BY).default('mid'),
});

export const ProfitsResponse = z
  .object({ positions: z.array(z.object({ id, moments: z.array(moment), profit: z.array(orNull) })) })
  .meta({ id: 'Profits' });

export const ReplayQuery = z.object({
  from: moment.optional().describe('from its first trade on unless given'),
  to: moment.optional().describe('to the last moment that is held unless given'),
  step: z.enum(['session', 'moment']).default('session'),
  by: z.enum(LIVED_BY).default('mid'),
});

export const ReplayResponse = z
  .object({
    symbol,
    entry: z
      .object({ asof: moment, price: number, vol: number, deviation: number, expiry: z.string() })
      .nullable()
      .describe('what was expected until the first expiry'),
    legs: z.array(
      z.object({
        symbol,
        expiry: z.string().nullable(),
        settlement: settlement.nullable(),
        strike: orNull,
        side: side.nullable(),
      }),
    ),
    rows: z.array(
      z.object({
        asof: moment,
        price: orNull,
        vol: orNull.describe('at the forward, of the first expiry that is held'),
        value: orNull,
        profit: orNull,
        evens: z.array(number).describe('prices at which it would have brought nothing then'),
        legs: z.array(z.object({ quantity: number, mid: orNull, vol: orNull, profit: orNull })),
      }),
    ),
  })
  .meta({ id: 'Replay' });

const MOST_STEPS = 41;

export const BookScenarioRequest = z
  .object({
    asof: moment.optional(),
    moves: z.array(number.min(-0.99).max(5)).min(1).max(MOST_STEPS).describe('of all prices, decimals'),
    volShifts: z.array(number.min(-2).max(2)).min(1).max(MOST_STEPS).describe('decimals'),
    volScale: z
      .enum(GRID_SCALES)
      .default('parallel')
      .describe('root: × √(30/T); along: beside that, as vols have moved with the price'),
    at: moment.optional().describe('when; at the moment itself unless given'),
    beta: symbol.optional().describe('an underlying: the others move by their betas to it; all alike unless given'),
  })
  .meta({ id: 'BookScenarioRequest' });

const Cell = z.object({ move: number, volShift: number, pnl: number });

export const BookScenarioResponse = z
  .object({
    asof: moment,
    at: moment,
    moves: z.array(number),
    volShifts: z.array(number),
    pnl: z.array(z.array(number)).describe('a row for each shift of vol, a column for each move'),
    worst: Cell,
    families: z.array(z.object({ family: z.string(), pnl: z.array(z.array(number)), worst: Cell })),
    apart: number.describe('the worst of each family alone, added: families that move apart'),
    positions: z.array(z.object({ id, pnl: z.array(z.array(number)) })),
    missing: z.int(),
  })
  .meta({ id: 'BookScenario' });

export const ChangesResponse = z
  .object({
    changes: z.array(
      z.object({ id, made: moment, words: z.string(), undone: z.boolean(), import: z.int().nullable() }),
    ),
  })
  .meta({ id: 'BookChanges' });
