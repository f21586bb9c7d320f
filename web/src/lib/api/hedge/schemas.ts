/** Hedge: what to trade so that an exposure is nothing. */
import { eachGreek, HEDGE_GREEKS, MOST_WAYS, UNDERLYING_ID, waysToChoose } from '@umwelt/core';
import { z } from 'zod';
import { number } from '../shared';

const MOST_INSTRUMENTS = 100;

const amount = number.min(-1e15).max(1e15);

/** Greeks of a position, or of one unit; those that are not given are 0. */
const Greeks = z.object(eachGreek(() => amount.default(0)));

const Instrument = Greeks.extend({ id: z.string().min(1).max(100) }).describe('of one unit');

/** Greeks as they are answered. */
const Told = z.object(eachGreek(() => number));

export const HedgeRequest = z
  .object({
    exposure: Greeks.describe('of what is held, in the units of the instruments'),
    instruments: z
      .array(Instrument)
      .max(MOST_INSTRUMENTS)
      .describe('options; the underlying, with a delta of one, is there without being named'),
    neutralize: z.array(z.enum(HEDGE_GREEKS)).min(1).max(HEDGE_GREEKS.length),
    whole: z.boolean().default(false).describe('options are rounded to whole numbers first, then the underlying'),
  })
  .superRefine(({ instruments, neutralize }, context) => {
    const fault = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
    const seen = new Set<string>();
    instruments.forEach(({ id, delta, ...others }, i) => {
      if (seen.has(id)) fault(['instruments', i, 'id'], `${id} is there twice`);
      seen.add(id);
      if (id !== UNDERLYING_ID) return;
      if (delta === 0) fault(['instruments', i, 'delta'], 'the underlying has a delta');
      const more = HEDGE_GREEKS.find((name) => name !== 'delta' && others[name] !== 0);
      if (more) fault(['instruments', i, more], 'the underlying has delta alone');
    });
    const targets = new Set(neutralize.filter((name) => name !== 'delta')).size;
    const options = instruments.filter(({ id }) => id !== UNDERLYING_ID).length;
    if (waysToChoose(targets, options) > MOST_WAYS)
      fault(['instruments'], `${targets} of ${options} can be chosen in more ways than ${MOST_WAYS}`);
  })
  .meta({ id: 'HedgeRequest' });

export const HedgeResponse = z
  .object({
    trades: z.array(z.object({ id: z.string(), quantity: number })),
    steps: z
      .array(
        z.object({
          id: z.string(),
          quantity: number,
          position: Told.describe('what the trade does'),
          cumulative: Told.describe('the exposure with this trade and those before'),
        }),
      )
      .describe('as on paper, in the order in which they are made'),
    residual: Told.describe('what is left after all of them'),
  })
  .meta({ id: 'Hedge' });
