import { certainPrice, contractPrice, exerciseOf, pricingModel, type AmericanSetting, type Contract } from '../models';
import type { ImpliedVolResult } from './reasons';

/** A deviation over the life beyond which no price tells vols apart. */
export const MOST_DEVIATION = 40;
/** What is left of a relative step on the fast setting, and on the one whose price is asked for. */
const COARSE = 1e-4;
const FINE = 1e-9;
/** Over the lower bound by no more than this share of it a price has no time value. */
const ROUNDING = 1e-12;
/** Share of the vol over which the first slope is taken. */
const NEARBY = 1e-3;
const MOST_PASSES = 100;

/**
 * Implied volatility under the models that know early exercise or a tree: a guarded secant iteration on the fast setting,
 * finished on the precise one with the slope found on the way. The lower bound of the price is what exercising at the
 * best moment earns without any vol, the upper one the spot of a call and the strike of a put, at the most they can grow.
 *
 * @param guess the vol of the European contract at the same price; NaN where there is none
 */
export function impliedEarlyVol(request: Omit<Contract, 'vol'> & { price: number }, guess: number): ImpliedVolResult {
  const { price, years, strike, rate, dividends } = request;
  const terms = {
    sign: request.side === 'call' ? 1 : -1,
    spot: request.spot!,
    strike,
    years,
    rate,
    yield: request.yield ?? 0,
    isAmerican: exerciseOf(request) === 'american',
    dividends,
  };
  const least = certainPrice(terms);
  if (!(price > least + ROUNDING * least)) return { reason: 'below-intrinsic' };
  const [most, growth] = terms.sign > 0 ? [terms.spot, terms.yield] : [strike, rate];
  if (!(price < most * Math.exp(Math.max(0, -growth * years)))) return { reason: 'above-maximum' };
  const isInTree = pricingModel(request) === 'binomial';
  const gapOn = (setting: AmericanSetting) => (vol: number) => contractPrice({ ...request, vol }, setting) - price;
  const top = MOST_DEVIATION / Math.sqrt(years);
  const fast = gapOn('fast');
  const start = guess > 0 && guess < top ? guess : 0.5 / Math.sqrt(years);
  const nearby = (fast(start * (1 + NEARBY)) - fast(start)) / (start * NEARBY);
  const found = solveRising(fast, start, nearby, top, isInTree ? FINE : COARSE);
  const { vol } = isInTree ? found : solveRising(gapOn('precise'), found.vol, found.slope, top, FINE);
  return vol < top * (1 - COARSE) ? { vol } : { reason: 'above-maximum' };
}

/**
 * The root of a rising function: secant steps, in a bracket that is halved, in proportion, where they leave it. What is left
 * after the last step is of the order of its square.
 *
 * @param top upper end of the bracket; the answer where the function is negative all the way
 */
export function solveRising(
  gapAt: (vol: number) => number,
  start: number,
  startSlope: number,
  top: number,
  tolerance: number,
) {
  let [low, high] = [0, top];
  let vol = start;
  let slope = startSlope;
  let gap = gapAt(vol);
  for (let pass = 0; pass < MOST_PASSES && gap !== 0; pass++) {
    if (gap > 0) high = vol;
    else low = vol;
    let next = vol - gap / slope;
    if (!(next > low && next < high)) next = low > 0 ? Math.sqrt(low) * Math.sqrt(high) : 0.5 * vol;
    const step = next - vol;
    if (Math.abs(step) <= tolerance * vol || high - low <= tolerance * high) return { vol: next, slope };
    const at = gapAt(next);
    if (at !== gap) slope = (at - gap) / step;
    [vol, gap] = [next, at];
  }
  return { vol, slope };
}
