import { fitPoints, pointMisses } from '../surface';
import { curveQuotes } from './points';
import type { ExpiryFit, SideVols } from './types';

/** How much the quotes of a strike pull the curve onto themselves. */
export interface OwnPull {
  /** The share of its miss by which the curve would be further off without it; 0 where a strike makes no point of the curve. */
  readonly pull: Float64Array;
  /** +1 where the call makes the point, −1 where the put does. */
  readonly sign: Int8Array;
}

/**
 * How much each strike says of the curve at itself: where a quote makes a point of it, its deleted residual tells what a fit without
 * it would be there, as far as a fit is a linear regression (see `pointMisses`).
 */
export function ownPulls(strike: Float64Array, fit: ExpiryFit, calls: SideVols, puts: SideVols): OwnPull {
  const out = { pull: new Float64Array(strike.length), sign: new Int8Array(strike.length) };
  // A curve that is taken from elsewhere has no say of these quotes in it.
  if (!fit.curve || fit.shape !== 'own' || fit.borrowed) return out;
  const quotes = curveQuotes(strike, fit, calls, puts);
  const misses = pointMisses(fitPoints(quotes, fit.years), fit.curve);
  let at = 0;
  quotes.index.forEach((i, place) => {
    if (!(quotes.vol[place]! > 0)) return;
    out.pull[i] = misses[at++]!.pull;
    out.sign[i] = quotes.side[place] === 'call' ? 1 : -1;
  });
  return out;
}
