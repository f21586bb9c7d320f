/** What traded, what is open, and what was expected of the price. */
import { z } from 'zod';
import { format, AsofQuery, day, moment, number, orNull, settlement, side, unsaid } from '../shared';

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

export const TapeRequestQuery = z.object({
  from: moment.optional().describe('the day of `to` unless given'),
  to: moment.optional().describe('the latest print unless given'),
  size: z.coerce.number().min(0).optional().describe('the smallest size'),
  legs: z.enum(['all', 'single', 'several']).optional().describe('several: legs of one trade'),
  against: z.enum(['all', 'above', 'below']).optional().describe('those over theory at their time, or under it'),
  most: z.coerce.number().int().min(1).max(MOST_PRINTS).optional().describe('2000 unless given'),
  format,
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
