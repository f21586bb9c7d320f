/** Contracts that are open at a strike. */
export interface OpenStrike {
  readonly strike: number;
  readonly callOpenInterest: number;
  readonly putOpenInterest: number;
}

/** What all open contracts are worth if the expiry settles at a price, in money. */
export interface PainPoint {
  price: number;
  callValue: number;
  putValue: number;
  total: number;
}

export interface MaxPain {
  /** Where the total is least; the lowest of equals. NaN without a strike. */
  strike: number;
  curve: PainPoint[];
}

/**
 * Value of the open calls and puts by the price at which the expiry settles, at each listed strike, and the strike where it
 * is least. Between strikes the total is linear, so that no price between them is lower.
 *
 * @param strikes in any order; no open interest counts as none
 * @param multiplier units of the underlying in a contract
 * @example maxPain([{ strike: 90, callOpenInterest: 10, putOpenInterest: 0 }, { strike: 110, callOpenInterest: 0, putOpenInterest: 5 }]).strike // 90
 */
export function maxPain(strikes: readonly OpenStrike[], multiplier = 1): MaxPain {
  const sorted = strikes.toSorted((a, b) => a.strike - b.strike);
  const curve = sorted.map(({ strike: price }): PainPoint => {
    let callValue = 0;
    let putValue = 0;
    for (const { strike, callOpenInterest, putOpenInterest } of sorted) {
      if (strike < price) callValue += (price - strike) * (callOpenInterest || 0) * multiplier;
      else putValue += (strike - price) * (putOpenInterest || 0) * multiplier;
    }
    return { price, callValue, putValue, total: callValue + putValue };
  });
  const least = curve.reduce<PainPoint | null>((best, one) => (best && best.total <= one.total ? best : one), null);
  return { strike: least?.price ?? NaN, curve };
}
