/** Structures that are kept. */
import { z } from 'zod';
import { day, moment, number, orNull, settlement, side, symbol, unsaid, version } from '../shared';

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
