import type { Contract } from '../models';
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

export interface SweepRequest {
  input: Input;
  values: Float64Array;
  output: Output;
}

/**
 * An output along an input, all else held.
 *
 * @returns a value for each of the request's; NaN where it does not exist
 */
export function sweep(contract: Contract, { input, values, output }: SweepRequest): Float64Array {
  return values.map((value) => sideReading(withInput(contract, input, value))[output]);
}
