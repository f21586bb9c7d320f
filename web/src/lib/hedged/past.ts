import {
  ewmaVol,
  expiryName,
  logReturns,
  orNaN,
  type HedgedPast,
  type HedgeRule,
  type NamedLeg,
  type WrittenOn,
} from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import type { HedgedParams } from './params';

type Answer = z.infer<typeof schemas.ContractPastResponse>;

/** Closes by day, in order of time. */
export interface Closes {
  readonly days: readonly string[];
  readonly close: Float64Array;
}

const floats = (values: readonly (number | null)[]) => Float64Array.from(values, orNaN);

/** The exponentially weighted vol of the closes that were known before each day. */
export function forecastsBefore({ days, close }: Closes, wanted: readonly string[]): Float64Array {
  const returns = logReturns(close);
  return Float64Array.from(wanted, (day) => {
    let known = 0;
    while (known < days.length && days[known]! < day) known++;
    return ewmaVol(returns.subarray(0, Math.max(0, known - 1)));
  });
}

/** How contracts are called in a request. */
export const contractsText = (legs: readonly NamedLeg[]): string =>
  legs
    .map((leg) => `${leg.side.charAt(0)}${leg.strike}@${expiryName({ ...leg, settlement: leg.settlement ?? 'pm' })}`)
    .join();

/**
 * What is held of a structure over time, as the core takes it.
 *
 * @param answer its contracts in the order of the legs
 * @param held of the underlying, for one unit of it
 */
export function hedgedPastOf(
  answer: Answer,
  legs: readonly NamedLeg[],
  held: number,
  on: Pick<WrittenOn, 'kind' | 'exercise'>,
  closes: Closes,
): HedgedPast {
  const sessions = new Map([...new Set(answer.days)].map((day, i) => [day, i]));
  return {
    on,
    instant: Float64Array.from(answer.moments, (moment) => Date.parse(moment)),
    session: Int32Array.from(answer.days, (day) => sessions.get(day)!),
    price: floats(answer.price),
    paid: Float64Array.from(answer.paid),
    forecast: forecastsBefore(closes, answer.days),
    legs: answer.contracts.map((contract, i) => ({
      quantity: legs[i]!.quantity,
      contract: {
        sign: contract.side === 'call' ? 1 : -1,
        strike: contract.strike,
        years: floats(contract.years),
        forward: floats(contract.forward),
        rate: floats(contract.rate),
        atmVol: floats(contract.atmVol),
        curveVol: floats(contract.vol),
        bid: floats(contract.bid),
        ask: floats(contract.ask),
      },
    })),
    held,
  };
}

const SLIPPAGE = { worst: 1, mid: 0, best: -1 } as const;

/** The rule that is chosen. @param multiplier of the contracts, in whose units the band is said */
export function ruleOf(params: HedgedParams, multiplier: number): HedgeRule {
  const { rehedge, hedgeBand, hedgeVol, fixedVol, worth, hedgeCost, entered } = params;
  return {
    when: rehedge === 'band' ? { band: hedgeBand / multiplier } : rehedge,
    by: hedgeVol === 'fixed' ? { vol: fixedVol / 100 } : hedgeVol,
    worth,
    cost: hedgeCost / 10_000,
    slippage: SLIPPAGE[entered],
  };
}
