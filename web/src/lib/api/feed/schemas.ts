/** The simulated feed. */
import { z } from 'zod';
import { moment, number, symbolList } from '../shared';

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
