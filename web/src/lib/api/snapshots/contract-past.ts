/** Contracts over time. */
import { z } from 'zod';
import { day, moment, named, number, orNull, settlement, side } from '../shared';

const overTime = z.array(orNull);

const CONTRACT = /^[cp]\d+(\.\d+)?@(.+)$/;
const MOST_CONTRACTS = 12;

export const ContractPastQuery = z.object({
  contracts: z
    .string()
    .refine((text) => {
      const all = text.split(',');
      return all.length <= MOST_CONTRACTS && all.every((one) => named.safeParse(CONTRACT.exec(one)?.[2]).success);
    }, `must be up to ${MOST_CONTRACTS} contracts like c4300@2031-04-17, separated by commas`)
    .describe('side, strike and expiry of each: c4300@2031-04-17,p4000@2031-04-17am'),
  from: moment,
  to: moment,
  step: z.enum(['session', 'moment']).optional().describe('the last moment of each session unless given'),
});

export const ContractPastResponse = z
  .object({
    symbol: z.string(),
    moments: z.array(moment),
    days: z.array(day).describe('sessions of the moments'),
    price: overTime.describe('of the underlying; at a settlement that of its bar'),
    paid: z.array(number).describe('cash that a unit of the underlying paid since the moment before'),
    contracts: z.array(
      z.object({
        side,
        strike: number,
        expiry: day,
        settlement,
        years: overTime.describe('left; 0 where it has just ended, null where it is not held'),
        forward: overTime,
        rate: overTime,
        atmVol: overTime.describe('at the forward, by the curve'),
        vol: overTime.describe('of the strike, by the curve'),
        bid: overTime,
        ask: overTime,
      }),
    ),
  })
  .meta({ id: 'ContractPast', description: 'Contracts over time, as columns aligned with the moments' });
