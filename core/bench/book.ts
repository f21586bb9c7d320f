/** A book of 8 000 legs over 40 underlyings: values with all Greeks, sums, scenarios; and a year of one position explained by day. */
import {
  contractKey,
  livedThrough,
  riskTree,
  scenarioGrid,
  type BookFill,
  type HeldLeg,
  type LedgerFacts,
  type MarketAt,
  type OptionId,
} from '../src';
import Big from 'big.js';
import { option, testMarket } from '../src/book/testing';
import { measure } from './measure';

const UNDERLYINGS = 40;
const EXPIRIES = ['2031-04-17', '2031-05-15', '2031-06-19'];
const STRIKES = Array.from({ length: 25 }, (_, i) => 70 + 2.5 * i);
const POSITIONS = 2000;
const LEGS = 4;
const ROUNDS = 5;

/** Markets of one expiry each: three for an underlying, three quarters of which may be exercised early. */
function marketsOf(round: number): MarketAt[][] {
  return Array.from({ length: UNDERLYINGS }, (_, i) =>
    EXPIRIES.map((expiry, j) =>
      testMarket({
        ...{ spot: 100, years: 0.1 * (j + 1), theta: 0.004 * (j + 1), expiry, strikes: STRIKES, halfSpread: 0.05 },
        // Each round begins with other numbers: what was solved before is of no use to it.
        rate: 0.04 + 1e-5 * round + 1e-4 * i,
        exercise: i % 4 === 0 ? 'european' : 'american',
        around: { dividends: i % 3 === 0 ? [{ years: 0.05, amount: 0.5 }] : [] },
      }),
    ),
  );
}

/** A leg by its number: which underlying, which expiry, which contract. */
function legAt(n: number): { underlying: number; expiry: number; contract: OptionId } {
  const underlying = Math.floor(n / LEGS) % UNDERLYINGS;
  const expiry = (n * 7) % EXPIRIES.length;
  const strike = STRIKES[(n * 11) % STRIKES.length]!;
  return { underlying, expiry, contract: option(strike, n % 2 === 0 ? 'call' : 'put', EXPIRIES[expiry]!) };
}

const rounds = Array.from({ length: 2 * ROUNDS }, (_, round) => marketsOf(round));
let round = 0;
let sum = 0;

measure(
  'book_values_and_sums_8000_legs',
  POSITIONS * LEGS,
  ROUNDS,
  () => {
    const markets = rounds[round++ % rounds.length]!;
    const legs = Array.from({ length: POSITIONS * LEGS }, (_, n): HeldLeg => {
      const { underlying, expiry, contract } = legAt(n);
      const mark = markets[underlying]![expiry]!.mark(contract)!;
      return {
        ...{ position: Math.floor(n / LEGS), contract: { ...contract, symbol: `U${underlying}` } },
        ...{ family: `F${underlying >> 1}`, quantity: (n % 9) - 4, money: 100, price: 100, mark },
        ...{ value: mark.theory, sinceEntry: 0, sinceClose: 0, sinceGhost: 0 },
      };
    });
    sum += riskTree(legs, ['family', 'underlying', 'expiry', 'strike'], null).sums.delta;
  },
  () => sum,
);

measure(
  'book_scenarios_9_by_7_8000_legs',
  POSITIONS * LEGS,
  ROUNDS,
  () => {
    const markets = rounds[round++ % rounds.length]!;
    const legs = Array.from({ length: POSITIONS * LEGS }, (_, n) => {
      const { underlying, expiry, contract } = legAt(n);
      return {
        ...{ position: Math.floor(n / LEGS), family: `F${underlying >> 1}`, market: markets[underlying]![expiry]! },
        ...{ elapsed: 0, contract, quantity: (n % 9) - 4, money: 100, beta: 1, volPerMove: 0 },
      };
    });
    const moves = [-0.1, -0.07, -0.05, -0.03, 0, 0.03, 0.05, 0.07, 0.1];
    const volShifts = [0.12, 0.08, 0.04, 0, -0.02, -0.04, -0.06];
    sum += scenarioGrid(legs, { moves, volShifts, volScale: 'parallel' }).total[0]![0]!;
  },
  () => sum,
);

const SESSIONS = 252;
const DAY_MS = 86_400_000;
const FACTS: LedgerFacts = {
  multiplierOf: () => new Big(100),
  changesOf: () => [],
  endOf: () => Infinity,
  settledAt: () => null,
};
const legs: readonly OptionId[] = [option(90, 'put'), option(95, 'put'), option(105, 'call'), option(110, 'call')];
const fills = legs.map((contract, i): BookFill => ({
  ...{ time: 0, contract, quantity: new Big(i % 3 === 0 ? 1 : -1), price: new Big(2), fee: new Big(0) },
}));

for (const exercise of ['european', 'american'] as const) {
  const years = Array.from({ length: ROUNDS }, (_, one) =>
    Array.from({ length: SESSIONS }, (__, i) =>
      testMarket({
        ...{ spot: 100 + 4 * Math.sin(i / 9), years: 1.1 - i / SESSIONS, theta: 0.04 * (1.1 - i / SESSIONS), exercise },
        ...{ rate: 0.04 + 1e-5 * one, strikes: [90, 95, 105, 110], halfSpread: 0.05 },
      }),
    ),
  );
  let at = 0;
  measure(
    `book_year_explained_by_day_${exercise}`,
    1,
    ROUNDS,
    () => {
      const markets = years[at++ % ROUNDS]!;
      const moments = markets.map((market, i) => ({ instant: i * DAY_MS, marketOf: () => market }));
      const stretches = livedThrough(fills, FACTS, moments, 'mid');
      sum += stretches.reduce((all, { legs: told }) => all + told.length, 0) + contractKey(legs[0]!).length;
    },
    () => sum,
  );
}
