/** What several resources of the API share. */
import { EXERCISES, parseExpiryName, SETTLEMENTS, UNDERLYING_KINDS } from '@umwelt/core';
import { z } from 'zod';
import { FIRST_YEAR, isSymbol, isYear, LAST_YEAR, SYMBOL_RULE } from './limits';

export const number = z.number();

export const orNull = number.nullable();

const isInRange = (text: string) => isYear(Number(text.slice(0, 4)));

const outOfRange = `must lie between ${FIRST_YEAR} and ${LAST_YEAR}`;

export const moment = z.iso
  .datetime({ offset: true, message: 'must be a date and time with zone, like 2031-03-13T16:45:00Z' })
  .refine(isInRange, outOfRange)
  .describe('ISO 8601 with zone');

export const day = z.iso.date('must be a date like 2031-03-13').refine(isInRange, outOfRange);

/** Two series of one day are two expiries. */
export const settlement = z.enum(SETTLEMENTS);

export const unsaid = settlement.optional().describe('unless given pm, or the only series of that day');

/** The name of an expiry: its day, with am behind it where it settles in the morning. */
export const named = z
  .string()
  .refine((text) => {
    const expiry = parseExpiryName(text);
    return expiry !== null && day.safeParse(expiry.expiry).success;
  }, 'must be the name of an expiry like 2031-03-20, or 2031-03-20am')
  .describe('the name of an expiry: 2031-03-20, and 2031-03-20am where it settles in the morning');

export const side = z.enum(['call', 'put']);

export const Problem = z
  .object({
    type: z.string(),
    status: number,
    title: z.string(),
    detail: z.string(),
    errors: z.array(z.object({ path: z.string(), message: z.string() })).optional(),
  })
  .meta({ id: 'Problem', description: 'RFC 9457 problem details' });

export const exercise = z.enum(EXERCISES);

export const positive = z.number().positive().min(1e-100).max(1e100);

/** The symbol of an underlying, as an import takes it. */
export const symbol = z.string().refine(isSymbol, SYMBOL_RULE);

/** Some of them, separated by commas. */
export const symbolList = z
  .string()
  .refine(
    (text) => text.split(',').every((one) => one.trim() === '' || isSymbol(one.trim())),
    `each of them ${SYMBOL_RULE}`,
  );

export const format = z.enum(['json', 'csv']).optional();

/** A list, as JSON or as a table. */
export const ListQuery = z.object({ format });

export const MomentQuery = z.object({
  asof: moment.optional().describe('the latest snapshot at or before it; the latest of all when left out'),
});

export const AsofQuery = MomentQuery.extend({ format });

export const finite = z.number().finite();

/** Of what somebody keeps: whoever changes it says which version he has seen, and gets 409 where it is another by now. */
export const version = z
  .int()
  .min(1)
  .max(2 ** 31 - 1)
  .describe('counted up with every change');

export const kind = z.enum(UNDERLYING_KINDS);

export const truth = z.enum(['true', 'false']).optional();
