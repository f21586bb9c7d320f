import { rootBetween } from '../distributions';
import { oddsUnder, type Law } from './law';

/** A contract whose price will be followed, with its vol held. */
export interface FutureTerms {
  /** +1 call, −1 put. */
  readonly sign: number;
  readonly strike: number;
  /** Time to expiry from now, years. */
  readonly years: number;
  /** Its value with the underlying at a price, so many years from now; rises with the price for a call, falls for a put. */
  readonly value: (price: number, elapsed: number) => number;
  /** Where the underlying may be so many years from now. */
  readonly law: (elapsed: number) => { law: Law; forward: number };
}

/** How far from the forward it is looked for, in logarithms: nobody has seen a price a hundred times higher or lower. */
const REACH = Math.log(100);
const FIRST_STEP = 0.02;
const NARROW = 1e-10;

/**
 * The price of the underlying at which a contract is worth so much.
 *
 * @param centre a price near which it is looked for, e.g. the forward
 * @returns NaN where no price in reach gives that value
 */
export function priceAtValue(
  { sign, strike, years, value }: Omit<FutureTerms, 'law'>,
  elapsed: number,
  target: number,
  centre: number,
): number {
  if (elapsed >= years) {
    const price = strike + sign * target;
    return target > 0 && price > 0 ? price : NaN;
  }
  const gapAt = (logPrice: number) => value(Math.exp(logPrice), elapsed) - target;
  let from = Math.log(centre);
  let atFrom = gapAt(from);
  if (Number.isNaN(atFrom)) return NaN;
  // A call that is worth less is looked for further up, a put further down.
  const way = atFrom < 0 ? sign : -sign;
  const end = from + way * REACH;
  for (let step = FIRST_STEP; way * (end - from) > 0; step *= 2) {
    const to = way > 0 ? Math.min(end, from + step) : Math.max(end, from - step);
    const atTo = gapAt(to);
    if (atFrom === 0) return Math.exp(from);
    if (atFrom * atTo <= 0) return Math.exp(rootBetween(gapAt, from, to, atFrom, atTo, NARROW));
    [from, atFrom] = [to, atTo];
  }
  return NaN;
}

/**
 * Odds that a contract is worth at least so much, so many years from now, its vol held: the odds that the underlying is
 * beyond the price that gives that value.
 *
 * @returns 1 for what it is always worth, 0 for what it never is
 */
export function oddsWorth(terms: FutureTerms, elapsed: number, target: number): number {
  return worthAt(terms, elapsed, target).odds;
}

/** Odds to be worth so much, and the price of the underlying beyond which it is; NaN where no price is. */
function worthAt(terms: FutureTerms, elapsed: number, target: number): { odds: number; price: number } {
  if (!(target > 0)) return { odds: Number.isNaN(target) ? NaN : 1, price: NaN };
  const { law, forward } = terms.law(elapsed);
  const price = priceAtValue(terms, elapsed, target, forward);
  if (Number.isNaN(price)) {
    const middle = terms.value(forward, Math.min(elapsed, terms.years));
    return { odds: Number.isNaN(middle) ? NaN : Number(middle >= target), price };
  }
  const under = oddsUnder(law, forward, price);
  return { odds: terms.sign > 0 ? 1 - under : under, price };
}

/** Odds of a gain or a loss, and what they depend on. */
export interface FutureOdds {
  odds: number;
  /** Price of the underlying at which the contract is worth so much; NaN where no price is. */
  price: number;
}

/**
 * Odds that a contract has gained or lost shares of its price at coming moments.
 *
 * @param price of the contract now
 * @param moments years from now, at most its time to expiry
 * @param shares 0.2 asks for a gain of 20 % or more, −0.2 for a loss of 20 % or more
 * @returns a row for each moment, a column for each share
 */
export function futureOdds(
  terms: FutureTerms,
  price: number,
  moments: readonly number[],
  shares: readonly number[],
): FutureOdds[][] {
  return moments.map((elapsed) =>
    shares.map((share) => {
      const worth = worthAt(terms, elapsed, price * (1 + share));
      return share > 0 ? worth : { ...worth, odds: 1 - worth.odds };
    }),
  );
}

/**
 * How far the underlying has to move for a contract to be worth after some time what it is worth now: what makes good a day's
 * decay, exactly.
 *
 * @param price of the underlying now
 * @returns signed; NaN where no move does
 */
export function moveToKeep(terms: Omit<FutureTerms, 'law'>, price: number, elapsed: number): number {
  return priceAtValue(terms, elapsed, terms.value(price, 0), price) - price;
}
