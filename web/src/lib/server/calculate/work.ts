import { DEFAULT_STEPS, impliedVol, priceContract, pricingModel, type Reason } from '@umwelt/core';
import type { z } from 'zod';
import { parseBody } from '../api/body';
import { ApiError } from '../api/problem';
import { ImpliedVolContract, ImpliedVolRequest, PriceContract, PriceRequest } from '../../api/schemas';

export type Calculation = 'price' | 'implied-vol';

/** A request taken apart: contracts as JSON in slices, and about how long all of them take, s. */
export interface Prepared {
  slices: Uint8Array[];
  seconds: number;
}

/** The work that is done for one request at most. */
const MOST_SECONDS = 60;
/** A slice runs without a check for other callers that wait. */
const SLICE_SECONDS = 0.1;
const SLICE_CONTRACTS = 2000;

type Terms = z.infer<typeof PriceContract> | z.infer<typeof ImpliedVolContract>;

/** About what a contract takes on one core, s; measured on a slow one. */
interface Costs {
  closed: number;
  boundary: number;
  /** For each step, squared. */
  tree: number;
}
const COSTS: Record<Calculation, Costs> = {
  price: { closed: 5e-6, boundary: 6e-3, tree: 45e-9 },
  'implied-vol': { closed: 8e-6, boundary: 1.6e-3, tree: 24e-9 },
};
const DIVIDEND_SECONDS = 1e-7;

function secondsFor(contract: Terms, { closed, boundary, tree }: Costs): number {
  const pricing = pricingModel(contract);
  if (pricing === 'american') return boundary;
  if (pricing === 'binomial') return tree * (contract.steps ?? DEFAULT_STEPS) ** 2;
  return closed + DIVIDEND_SECONDS * (contract.dividends?.length ?? 0);
}

const EXPIRED = { error: { code: 'expired', message: 'the time to expiry is negative' } };

const priced = (contract: z.infer<typeof PriceContract>) =>
  contract.years < 0 ? EXPIRED : { ...priceContract(contract), pricedBy: pricingModel(contract) };

const MESSAGES: Partial<Record<Reason, string>> = {
  'below-intrinsic': 'the price is at or under its lower bound, so no vol gives it',
  'above-maximum': 'the price is at or over its upper bound, so no vol gives it',
  expired: 'there is no time left to expiry',
};

function solved(contract: z.infer<typeof ImpliedVolContract>) {
  const result = impliedVol(contract);
  if ('vol' in result) return result;
  return { error: { code: result.reason, message: MESSAGES[result.reason] ?? result.reason } };
}

/**
 * Reads the body of a request and takes it apart.
 *
 * @throws ApiError 400 for what does not meet its schema, 422 for more work than is done for one request
 */
export function prepare(kind: Calculation, body: Buffer): Prepared {
  const schema: z.ZodType<{ contracts: Terms[] }> = kind === 'price' ? PriceRequest : ImpliedVolRequest;
  const { contracts } = parseBody(body, schema);
  const groups: Terms[][] = [];
  let seconds = 0;
  let sliceSeconds = Infinity;
  for (const contract of contracts) {
    const more = secondsFor(contract, COSTS[kind]);
    seconds += more;
    if (sliceSeconds > SLICE_SECONDS || groups.at(-1)!.length === SLICE_CONTRACTS) {
      groups.push([]);
      sliceSeconds = 0;
    }
    groups.at(-1)!.push(contract);
    sliceSeconds += more;
  }
  if (seconds > MOST_SECONDS) {
    const fits = Math.floor((contracts.length * MOST_SECONDS) / seconds);
    const message =
      fits === 0
        ? `one such contract takes about ${Math.round(seconds / contracts.length)} s; a request may take ${MOST_SECONDS} s: fewer steps`
        : `${contracts.length} such contracts take about ${Math.round(seconds)} s; a request may take ${MOST_SECONDS} s, in which about ${fits} of them fit`;
    throw new ApiError(422, 'Too much work', `contracts: ${message}`, {
      errors: [{ path: 'contracts', message }],
      fits,
    });
  }
  return { slices: groups.map((group) => Buffer.from(JSON.stringify(group))), seconds };
}

/** Results of a slice, as JSON without the brackets of its list. */
export function calculateSlice(kind: Calculation, slice: Uint8Array): Uint8Array {
  const contracts = JSON.parse(Buffer.from(slice).toString('utf8')) as never[];
  const results = kind === 'price' ? contracts.map(priced) : contracts.map(solved);
  return Buffer.from(JSON.stringify(results).slice(1, -1));
}
