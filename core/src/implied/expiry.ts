import { normalDensity } from '../distributions';
import { makeFirstOrder, priceEuropean, type AmericanExpiry } from '../models';
import { MOST_DEVIATION, solveRising } from './early';
import { impliedVols } from './lognormal';

const TOLERANCE = 1e-4;
/** Time value over the best that exercising earns, as a share of the spot, that is rounding. */
const NO_TIME_VALUE = 1e-9;
/** Where early exercise moves the slope by more than this share of the vega, bid and ask are solved like a mid. */
const MOST_BEND = 0.3;

/** The vol of one price, and by how much the price rises with it, as a share of the European vega. */
interface Solved {
  vol: number;
  bend: number;
}
const NONE: Solved = { vol: NaN, bend: NaN };

/**
 * Implied vol of one American contract of an expiry, by secant steps.
 *
 * @param price as quoted, not grown to the expiry
 * @param guess vol of the European contract at this price; where there is none the middle of the expiry's vols is begun with
 * @param bend of a contract next to it, which makes its first slope a good one
 * @returns NaN at or under what exercising earns now or at the end, and over what the underlying can pay
 */
function impliedAmericanVol(
  expiry: AmericanExpiry,
  sign: number,
  strike: number,
  price: number,
  guess: number,
  bend = 0,
): Solved {
  const { spot, years, rate, yield: carryYield } = expiry.terms;
  const rootYears = Math.sqrt(years);
  const top = MOST_DEVIATION / rootYears;
  const spotValue = spot * Math.exp(-carryYield * years);
  const strikeValue = strike * Math.exp(-rate * years);
  const least = Math.max(0, sign * (spot - strike), sign * (spotValue - strikeValue));
  const most = sign > 0 ? Math.max(spot, spotValue) : Math.max(strike, strikeValue);
  if (!(price > least + (least > 0 ? NO_TIME_VALUE * spot : 0) && price < most)) return NONE;
  const [low, high] = expiry.range;
  const start = guess > 0 && guess < top ? guess : Math.sqrt(low * high);
  const vega = europeanVega(spotValue, strikeValue, start * rootYears) * rootYears;
  const { vol, slope } = solveRising(
    (at) => expiry.price(sign, strike, at) - price,
    start,
    vega * (1 + bend),
    top,
    TOLERANCE,
  );
  if (!(vol < top * (1 - TOLERANCE))) return NONE;
  return { vol, bend: slope / (europeanVega(spotValue, strikeValue, vol * rootYears) * rootYears) - 1 };
}

/** ∂V/∂s of a European contract, s its deviation. */
function europeanVega(spotValue: number, strikeValue: number, deviation: number): number {
  return spotValue * normalDensity(Math.log(spotValue / strikeValue) / deviation + 0.5 * deviation);
}

/** Bid, mid and ask of one side, aligned with the strikes. */
export interface SidePrices {
  readonly bid: Float64Array;
  readonly mid: Float64Array;
  readonly ask: Float64Array;
}

/**
 * Implied vols of American contracts of one side of an expiry. Mids are solved; what early exercise is worth moves little
 * between them and bid and ask, so it is taken out of these along its slope, and they are solved as European.
 *
 * @param vols of the European contracts at these prices, written over; NaN where there is none
 */
export function impliedAmericanVols(
  expiry: AmericanExpiry,
  sign: number,
  strike: Float64Array,
  prices: SidePrices,
  vols: SidePrices,
): void {
  const count = strike.length;
  const { spot, years, rate, yield: carryYield } = expiry.terms;
  const growth = Math.exp(rate * years);
  const spotValue = spot * Math.exp(-carryYield * years);
  const bend = new Float64Array(count);
  const column = (value: number) => new Float64Array(count).fill(value);
  const [forward, time, signs] = [column(spotValue * growth), column(years), column(sign)];
  // From strike to strike early exercise moves vols by about the same share: most are found with one look at a price.
  let [share, slope] = [1, 0];
  for (let i = 0; i < count; i++) {
    const european = vols.mid[i]!;
    const found = impliedAmericanVol(expiry, sign, strike[i]!, prices.mid[i]!, share * european, slope);
    vols.mid[i] = found.vol;
    bend[i] = found.bend;
    const isLike = Math.abs(found.bend) < MOST_BEND;
    [share, slope] = isLike && european > 0 ? [found.vol / european, found.bend] : [1, 0];
  }
  const european = makeFirstOrder(count);
  priceEuropean(
    {
      spot: column(spot),
      strike,
      years: time,
      rate: column(rate),
      yield: column(carryYield),
      vol: vols.mid,
      sign: signs,
    },
    european,
    count,
  );
  const premium = prices.mid.map((mid, i) => mid - european.price[i]!);
  for (const name of ['bid', 'ask'] as const) {
    const undiscounted = prices[name].map((price, i) => (price - premium[i]!) * growth);
    const equivalent = column(NaN);
    impliedVols(forward, strike, time, undiscounted, signs, equivalent, count);
    for (let i = 0; i < count; i++) {
      const vol = vols.mid[i]! + (equivalent[i]! - vols.mid[i]!) / (1 + bend[i]!);
      const isBent = !(Math.abs(bend[i]!) < MOST_BEND && vol > 0);
      vols[name][i] = isBent
        ? impliedAmericanVol(expiry, sign, strike[i]!, prices[name][i]!, vol > 0 ? vol : vols[name][i]!).vol
        : vol;
    }
  }
}
