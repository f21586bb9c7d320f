import { earlyExercise, tablesOf } from './american';
import { leisenReimer, type BinomialInput } from './binomial';
import { isSolved, logLimit, solveBoundary } from './boundary';
import { escrowOf } from './escrow';
import { CALL, PUT, type Contract } from './model';

/** A point of an exercise boundary. */
export interface BoundaryPoint {
  /** Time that is left to expiry. */
  years: number;
  /** Price at and beyond which the contract is exercised. */
  price: number;
}

/**
 * The exercise boundary of an American contract at the nodes of the precise setting, from now to expiry. That of a call is
 * the reflection of a put's at the strike, rate and yield exchanged (R. McDonald and M. Schroder, 1998).
 *
 * @returns nothing for a contract that is never exercised early, that has two boundaries, or no vol or time
 */
export function exerciseBoundary(contract: Contract): BoundaryPoint[] {
  const { side, strike, years, rate, yield: carryYield = 0, vol } = contract;
  const sign = side === 'call' ? CALL : PUT;
  if (!(vol * Math.sqrt(years) > 0) || earlyExercise(sign, rate, carryYield, years) !== 'single') return [];
  const tables = tablesOf('precise');
  const [r, q] = sign > 0 ? [carryYield, rate] : [rate, carryYield];
  if (!isSolved(tables, r, q, vol, years)) solveBoundary(tables, r, q, vol, years);
  const points = Array.from(tables.root, (root, i) => ({
    years: years * root * root,
    price: strike * Math.exp(-sign * tables.logBoundary[i]!),
  }));
  // Next to expiry it tends to the strike, or to where exercising stops earning.
  return [...points, { years: 0, price: strike * Math.exp(-sign * logLimit(r, q)) }].sort((a, b) => b.years - a.years);
}

/** A node of a tree. */
export interface TreeNode {
  /** Price of the underlying, its dividends to come added back. */
  price: number;
  value: number;
  isExercised: boolean;
}

/** A whole tree, small enough to be read. */
export interface SmallTree {
  /** Probability of a step up, and what a step discounts by. */
  up: number;
  discount: number;
  /** By steps from now; of each, the nodes from the lowest price. */
  levels: TreeNode[][];
}

/**
 * A Leisen–Reimer tree with all its nodes.
 *
 * @param steps odd
 */
export function smallTree(input: BinomialInput, steps: number): SmallTree {
  const { sign, strike, years, rate, isAmerican } = input;
  const escrow = escrowOf(input);
  const dt = years / steps;
  const { up, rise, fall } = leisenReimer(input, steps);
  const discount = Math.exp(-rate * dt);
  const stripped = input.spot - escrow(0);
  const priceAt = (i: number, j: number) => stripped * rise ** j * fall ** (i - j) + (i === steps ? 0 : escrow(i * dt));
  const levels: TreeNode[][] = [];
  for (let i = steps; i >= 0; i--) {
    const next = levels[0];
    levels.unshift(
      Array.from({ length: i + 1 }, (_, j) => {
        const price = priceAt(i, j);
        const exercised = Math.max(0, sign * (price - strike));
        if (!next) return { price, value: exercised, isExercised: exercised > 0 };
        const held = discount * (up * next[j + 1]!.value + (1 - up) * next[j]!.value);
        const isExercised = isAmerican && exercised > held;
        return { price, value: isExercised ? exercised : held, isExercised };
      }),
    );
  }
  return { up, discount, levels };
}
