import { contractPrice, type Contract } from '../models';
import { withInput, type Input } from './inputs';
import { sideReading } from './reading';

/** What can be followed along an input. */
export const OUTPUTS = [
  'price',
  'timeValue',
  'delta',
  'gamma',
  'theta',
  'vega',
  'rho',
  'vanna',
  'volga',
  'charm',
  'speed',
  'color',
  'veta',
  'zomma',
  'itm',
  'breakEvenOdds',
  'touch',
  'earlyPremium',
  'volPerDay',
] as const;
export type Output = (typeof OUTPUTS)[number];

const STEPS = 101;

export interface SweepRequest {
  input: Input;
  values: Float64Array;
  output: Output;
}

/**
 * An output along an input, all else held: for the eye, so early exercise is on its fast setting, and trees have a hundred
 * steps unless the contract says how many.
 *
 * @returns a value for each of the request's; NaN where it does not exist
 */
export function sweep(contract: Contract, { input, values, output }: SweepRequest): Float64Array {
  const drawn = contract.steps === undefined ? { ...contract, steps: STEPS } : contract;
  return values.map((value) => {
    const moved = withInput(drawn, input, value);
    return output === 'price' ? contractPrice(moved, 'fast') : sideReading(moved, 'fast')[output];
  });
}
