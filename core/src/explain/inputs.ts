import { isOnForward, underlyingOf, type Contract } from '../models';

/** The inputs that can be moved, solved for and swept. `price` is the spot, or the forward of the models on it. */
export const INPUTS = ['price', 'strike', 'years', 'vol', 'rate', 'yield'] as const;
export type Input = (typeof INPUTS)[number];

/** Whether an input means anything to the model of a contract. */
export function isPricedOn(contract: Pick<Contract, 'model'>, input: Input): boolean {
  return input !== 'yield' || !isOnForward(contract.model);
}

/** The value of an input; a yield that is not given is 0. */
export function inputOf(contract: Contract, input: Input): number {
  if (input === 'price') return underlyingOf(contract);
  if (input === 'yield') return contract.yield ?? 0;
  return contract[input];
}

/**
 * The contract with another value of an input. With less time to go its cash dividends are as much nearer; those that are
 * reached are gone.
 */
export function withInput(contract: Contract, input: Input, value: number): Contract {
  if (input === 'price')
    return isOnForward(contract.model) ? { ...contract, forward: value } : { ...contract, spot: value };
  if (input !== 'years') return { ...contract, [input]: value };
  const passed = contract.years - value;
  const dividends = contract.dividends
    ?.map(({ years, amount }) => ({ years: years - passed, amount }))
    .filter(({ years }) => years > 0);
  return { ...contract, years: value, dividends };
}
