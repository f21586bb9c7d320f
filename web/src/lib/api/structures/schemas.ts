/** Structures that are kept. */
import { z } from 'zod';
import { MOST_LEGS } from '../limits';
import { day, moment, number, orNull, settlement, side, symbol, unsaid, version } from '../shared';

const MOST_NOTE = 2000;
const MOST_NAME = 120;
const MOST_TAG = 40;
const MOST_TAGS = 20;
const MOST_HELD = 1e9;

const MOST_QUANTITY = 1e6;

const LegRequest = z.object({
  symbol: symbol.optional().describe('another delivery of the root; the underlying of the structure unless given'),
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

const structureName = z.string().trim().max(MOST_NAME);

/** Each once, without blanks around them. */
const structureTags = z
  .array(
    z
      .string()
      .trim()
      .min(1)
      .max(MOST_TAG)
      .regex(/^[^,;]*$/, 'must hold neither a comma nor a semicolon'),
  )
  .max(MOST_TAGS)
  .transform((tags) => [...new Set(tags)]);

const heldUnits = number.min(-MOST_HELD).max(MOST_HELD).describe('of the underlying beside the legs, in its own units');

const Structure = z.object({
  symbol,
  legs: z.array(LegRequest).min(1).max(MOST_LEGS),
  held: heldUnits.default(0),
  quantity: structureQuantity.default(1),
  name: structureName.default(''),
  tags: structureTags.default([]),
  note: structureNote.default(''),
});

const pricedAt = moment.optional().describe('priced at the latest moment at or before it');

export const StructureRequest = Structure.extend({ asof: pricedAt }).meta({ id: 'StructureRequest' });

/** More come in several parts. */
const MOST_STRUCTURES = 500;

export const StructuresRequest = z
  .object({ structures: z.array(Structure).min(1).max(MOST_STRUCTURES), asof: pricedAt })
  .meta({ id: 'StructuresRequest' });

export const StructureChange = z
  .object({
    version,
    quantity: structureQuantity.optional(),
    name: structureName.optional(),
    tags: structureTags.optional(),
    note: structureNote.optional(),
  })
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
        held: number.describe('of the underlying beside the legs, in its own units'),
        quantity: number,
        name: z.string(),
        tags: z.array(z.string()),
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
