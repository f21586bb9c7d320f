/** What a level of odds is asked of: ending in the money, reaching the strike, or ending beyond the break-even. */
export const ODDS_KINDS = ['itm', 'touch', 'breakEven'] as const;
export type OddsKind = (typeof ODDS_KINDS)[number];

/** One side of an expiry, strikes ascending, aligned. */
export interface TargetSide {
  /** +1 calls, −1 puts. */
  readonly sign: number;
  readonly strike: ArrayLike<number>;
  readonly bid: ArrayLike<number>;
  readonly ask: ArrayLike<number>;
  readonly odds: ArrayLike<number>;
}

/** What is taken in for odds no higher than were asked for. */
export interface TargetStrike {
  index: number;
  strike: number;
  odds: number;
  /** Mid and bid of the contract: credit at the middle and at worst. */
  credit: number;
  worst: number;
}

/**
 * The out-of-the-money strike nearest to the forward whose odds are at most the target; for odds of 15 % on the call's side the
 * lowest strike with 15 % or less. Strikes without odds or bid are passed over.
 *
 * @returns null where no strike meets it
 */
export function targetStrike(side: TargetSide, forward: number, target: number): TargetStrike | null {
  const { sign, strike, bid, ask, odds } = side;
  const from = sign > 0 ? 0 : strike.length - 1;
  for (let i = from; i >= 0 && i < strike.length; i += sign) {
    if (sign * (strike[i]! - forward) < 0 || !(odds[i]! <= target) || !(bid[i]! > 0 && ask[i]! >= bid[i]!)) continue;
    return { index: i, strike: strike[i]!, odds: odds[i]!, credit: 0.5 * (bid[i]! + ask[i]!), worst: bid[i]! };
  }
  return null;
}

/** A credit spread: the target strike sold, one further out bought. */
export interface CreditSpread {
  sold: number;
  bought: number;
  width: number;
  credit: number;
  /** Sold at its bid, bought at its ask. */
  worst: number;
  /** Most that can be lost: width less credit. */
  risk: number;
  returnOnRisk: number;
  /** Simple, over 365 days. */
  annualized: number;
}

/**
 * Return as a year's, simple interest.
 *
 * @example annualized(0.02, 30) // 0.2433
 */
export function annualized(share: number, days: number): number {
  return days > 0 ? (share * 365) / days : NaN;
}

/**
 * The spread that sells a strike and buys the one at most nearest to so much further out.
 *
 * @param width in money; the bought strike is the listed and quoted one nearest to it
 * @returns null where nothing further out is offered
 */
export function creditSpread(side: TargetSide, sold: TargetStrike, width: number, days: number): CreditSpread | null {
  const { sign, strike, bid, ask } = side;
  let at = -1;
  for (let i = sold.index + sign; i >= 0 && i < strike.length; i += sign) {
    if (!(ask[i]! > 0)) continue;
    const miss = (j: number) => Math.abs(Math.abs(strike[j]! - sold.strike) - width);
    if (at < 0 || miss(i) < miss(at)) at = i;
  }
  if (at < 0) return null;
  const far = Math.abs(strike[at]! - sold.strike);
  const credit = sold.credit - 0.5 * (bid[at]! + ask[at]!);
  const risk = far - credit;
  const returnOnRisk = risk > 0 ? credit / risk : NaN;
  return {
    sold: sold.strike,
    bought: strike[at]!,
    width: far,
    credit,
    worst: sold.worst - ask[at]!,
    risk,
    returnOnRisk,
    annualized: annualized(returnOnRisk, days),
  };
}
