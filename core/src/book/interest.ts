import { yearsBetween } from '../time';

/** Money that came in at a moment, or went out. */
export interface Paid {
  readonly time: number;
  readonly amount: number;
}

/** A rate that holds from a moment on, continuously compounded. */
export interface RateFrom {
  readonly time: number;
  readonly rate: number;
}

/**
 * What a balance has earned, or owes, up to a moment: at the rate of each time, with interest on interest. Before the first rate that
 * holds.
 *
 * @param paid in any order
 * @param rates in order of time
 */
export function interestOn(paid: readonly Paid[], rates: readonly RateFrom[], until: number): number {
  const first = rates[0];
  if (!first) return 0;
  const steps = [
    ...paid.map(({ time, amount }) => ({ time, amount, rate: null })),
    ...rates.map(({ time, rate }) => ({ time, amount: 0, rate })),
  ]
    .filter(({ time }) => time <= until)
    .sort((a, b) => a.time - b.time);
  let [balance, all, rate] = [0, 0, first.rate];
  steps.forEach((step, i) => {
    balance += step.amount;
    all += step.amount;
    rate = step.rate ?? rate;
    const next = steps[i + 1]?.time ?? until;
    balance *= Math.exp(rate * yearsBetween(step.time, next));
  });
  return balance - all;
}
