import { rootBetween } from '../distributions';
import { impliedVol } from '../implied';
import { contractPrice, priceContract, type Contract } from '../models';
import { inputOf, withInput, type Input } from './inputs';

/** What a contract is to have. */
export interface SolveTarget {
  output: 'price' | 'delta' | 'itm';
  value: number;
}

export type Solved = { value: number } | { problem: string };

const CELLS = 48;
const NAMES = { price: 'price', delta: 'delta', itm: 'in-the-money probability' } as const;

/** Where a value is looked for; prices, strikes, times and vols by their logarithm. */
function rangeOf(contract: Contract, input: Input): { low: number; high: number; isLog: boolean } {
  const { model } = contract;
  const now = inputOf(contract, input);
  if (input === 'rate' || input === 'yield') return { low: -0.5, high: 1, isLog: false };
  if (input === 'years') return { low: 1 / 525_600, high: 30, isLog: true };
  if (model === 'bachelier' && input !== 'vol') {
    const reach = 12 * contract.vol * Math.sqrt(contract.years);
    return { low: now - reach, high: now + reach, isLog: false };
  }
  if (input === 'vol') {
    const [low, high] = model === 'bachelier' ? [1e-6 * now, 1e4 * now] : [1e-4, 40];
    return { low, high, isLog: true };
  }
  const other = inputOf(contract, input === 'strike' ? 'price' : 'strike');
  const reach = Math.min(20, Math.max(3, 12 * contract.vol * Math.sqrt(contract.years)));
  return { low: other * Math.exp(-reach), high: other * Math.exp(reach), isLog: true };
}

/**
 * The value of an input at which a contract has a price, a delta or an in-the-money probability. Vols of a price are the
 * implied ones; anything else is looked for cell by cell, outwards from where it is, and bisected with secants
 * (the Illinois rule: M. Dowell and P. Jarratt, "A modified regula falsi method", 1971). Where more than one value does,
 * it is the nearest.
 *
 * @returns the value, or in words why there is none
 */
export function solveInput(contract: Contract, input: Input, { output, value: target }: SolveTarget): Solved {
  if (input === 'vol' && output === 'price') {
    const found = impliedVol({ ...contract, price: target });
    if ('vol' in found) return { value: found.vol };
    const words = { 'below-intrinsic': 'at or under its lower bound', 'above-maximum': 'at or over its upper bound' };
    const { reason } = found;
    return {
      problem: `no vol gives this price: it is ${reason in words ? words[reason as keyof typeof words] : reason}`,
    };
  }
  const { low, high, isLog } = rangeOf(contract, input);
  const outer = (x: number) => (isLog ? Math.exp(x) : x);
  const inner = (value: number) => (isLog ? Math.log(value) : value);
  const valueOf = (moved: Contract) => (output === 'price' ? contractPrice(moved) : priceContract(moved)[output]);
  const gapAt = (x: number) => valueOf(withInput(contract, input, outer(x))) - target;
  const [from, to] = [inner(low), inner(high)];
  const now = Math.min(to, Math.max(from, inner(inputOf(contract, input))));
  const width = (to - from) / CELLS;
  const steps = Array.from({ length: CELLS + 1 }, (_, i) => i);
  const above = steps.map((i) => Math.min(to, now + i * width)).filter((x, i, all) => i === 0 || x > all[i - 1]!);
  const below = steps.map((i) => Math.max(from, now - i * width)).filter((x, i, all) => i === 0 || x < all[i - 1]!);
  let [least, most] = [Infinity, -Infinity];
  const gaps = new Map<number, number>();
  const known = (x: number) => {
    const gap = gaps.get(x) ?? gapAt(x);
    gaps.set(x, gap);
    least = Math.min(least, gap);
    most = Math.max(most, gap);
    return gap;
  };
  for (let i = 1; i < Math.max(above.length, below.length); i++) {
    for (const side of [above, below]) {
      const [a, b] = [side[i - 1], side[i]];
      if (a === undefined || b === undefined) continue;
      const [atA, atB] = [known(a), known(b)];
      if (atA === 0) return { value: outer(a) };
      if (atA * atB <= 0) return { value: outer(rootBetween(gapAt, a, b, atA, atB)) };
    }
  }
  const format = (gap: number) => Number((gap + target).toPrecision(6));
  return { problem: `no ${input} gives this ${NAMES[output]}: it runs from ${format(least)} to ${format(most)}` };
}
