import type { ListedSlice } from '../structures';

/** Where a contract is listed. */
export interface ListedAt {
  readonly slice: number;
  readonly index: number;
  readonly side: 'call' | 'put';
}

/** Days after which an expiry is looked for: near ones have gamma, far ones vega; less than the first is no hedge for long. */
const DAYS = [8, 21, 45, 90, 150];
/** Strikes on either side of the forward that are looked at. */
const STRIKES = 2;

/** Of the contracts near the forward that are out of the money the one with the tightest market for its price. */
function tightest({ fit, strike, ...sides }: ListedSlice, slice: number): ListedAt | null {
  const away = (at: number) => Math.abs(strike[at]! - fit.forward);
  const near = strike.reduce((best, _, at) => (away(at) < away(best) ? at : best), 0);
  let [best, least] = [null as ListedAt | null, Infinity];
  for (let index = Math.max(0, near - STRIKES); index <= Math.min(strike.length - 1, near + STRIKES); index++) {
    const side = strike[index]! >= fit.forward ? 'call' : 'put';
    const { bid, ask } = sides[side];
    const spread = (ask[index]! - bid[index]!) / (ask[index]! + bid[index]!);
    if (bid[index]! > 0 && spread >= 0 && spread < least) [least, best] = [spread, { slice, index, side }];
  }
  return best;
}

/**
 * Contracts to hedge with, at some distances in time: of those near the forward, where there is the most gamma and vega and the
 * least skew, the one with the tightest market for its price (common practice).
 *
 * @param also expiries that are to have one whatever their distance, by their place
 */
export function suggestHedges(slices: readonly ListedSlice[], also: readonly number[] = []): ListedAt[] {
  const found: ListedAt[] = [];
  for (const days of DAYS) {
    const at = slices.findIndex(
      ({ fit }, i) => fit.days >= days && fit.curve && fit.forward > 0 && i > (found.at(-1)?.slice ?? -1),
    );
    const best = at < 0 ? null : tightest(slices[at]!, at);
    if (best) found.push(best);
  }
  for (const at of new Set(also)) {
    const best = slices[at] && !found.some(({ slice }) => slice === at) ? tightest(slices[at], at) : null;
    if (best) found.push(best);
  }
  return found.sort((a, b) => a.slice - b.slice);
}
