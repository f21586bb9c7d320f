import { exp, scaledTail, INV_SQRT_2PI, normalCdf } from '../distributions';
import { exponentials, logLimit } from './boundary';
import type { Collocation } from './collocation';

/** Price of a put, and its derivatives to the spot. */
export interface Put {
  price: number;
  delta: number;
  gamma: number;
}
export const PUT: Put = { price: 0, delta: 0, gamma: 0 };

/** Undiscounted tails of the European put. */
export function europeanPut(
  spot: number,
  strike: number,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
): Put {
  const s = vol * Math.sqrt(years);
  const d1 = (Math.log(spot / strike) + (rate - carryYield) * years) / s + 0.5 * s;
  const dividend = Math.exp(-carryYield * years);
  const under1 = normalCdf(-d1);
  PUT.price = strike * Math.exp(-rate * years) * normalCdf(s - d1) - spot * dividend * under1;
  PUT.delta = -dividend * under1;
  PUT.gamma = (dividend * INV_SQRT_2PI * Math.exp(-0.5 * d1 * d1)) / (spot * s);
  return PUT;
}

function exercisedPut(spot: number, strike: number): Put {
  PUT.price = strike - spot;
  PUT.delta = -1;
  PUT.gamma = 0;
  return PUT;
}

/**
 * An American put by the boundary that the tables hold: the European price and the premium, what exercising earns while
 * the price is under the boundary (I. J. Kim, "The analytic valuation of American options", 1990; P. Carr, R. Jarrow and
 * R. Myneni, "Alternative characterizations of American put options", 1992).
 */
export function boundedPut(
  tables: Collocation,
  spot: number,
  strike: number,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
  hasGreeks: boolean,
): Put {
  const moneyness = Math.log(spot / strike);
  const put = europeanPut(spot, strike, rate, carryYield, vol, years);
  // What is worth more at the end is not exercised now, whatever a boundary says that next to no rate makes.
  if (moneyness <= tables.logBoundary[0]! && put.price <= strike - spot) return exercisedPut(spot, strike);
  fillPremium(tables, moneyness - logLimit(rate, carryYield), rate - carryYield, vol, years);
  fillDiscounts(tables, rate, carryYield, years);
  const whole = vol * Math.sqrt(years);
  put.price += premiumOf(tables, spot, strike, whole);
  if (hasGreeks) addPremiumGreeks(tables, put, spot, strike, whole);
  put.price = Math.max(put.price, strike - spot, 0);
  return put;
}

/** What is earned and forgone by the abscissae, discounted: the same for all contracts of an expiry. */
function fillDiscounts(tables: Collocation, rate: number, carryYield: number, years: number): void {
  const { premium, premiumH, premiumWeight, onStrike, onSpot, discounted } = tables;
  if (discounted[0] === rate && discounted[1] === carryYield && discounted[2] === years) return;
  discounted[0] = rate;
  discounted[1] = carryYield;
  discounted[2] = years;
  for (let k = 0; k < premium; k++) {
    const x = premiumH[k]!;
    const t = years * x * x;
    const weight = 2 * years * premiumWeight[k]! * x;
    onStrike[k] = weight * rate * exp(-rate * t);
    onSpot[k] = weight * carryYield * exp(-carryYield * t);
  }
}

function fillPremium(tables: Collocation, gap: number, carry: number, vol: number, years: number): void {
  const { nodes, premium, premiumH, toPremium, square, upper, upperExponent, lowerExponent } = tables;
  const whole = vol * Math.sqrt(years);
  const drift = carry * years;
  for (let k = 0, at = 0; k < premium; k++) {
    // Two sums, that no addition waits for the one before it.
    let even = 0;
    let odd = 0;
    for (let j = 1; j < nodes; j += 2, at += 2) {
      even += toPremium[at]! * square[j - 1]!;
      odd += toPremium[at + 1]! * square[j]!;
    }
    if (nodes % 2 === 1) even += toPremium[at++]! * square[nodes - 1]!;
    const sum = even + odd;
    const x = premiumH[k]!;
    const s = whole * x;
    const d2 = (gap + Math.sqrt(sum > 0 ? sum : 0) + drift * x * x) / s - 0.5 * s;
    const d1 = d2 + s;
    upper[k] = d1;
    upperExponent[k] = -0.5 * d1 * d1;
    lowerExponent[k] = -0.5 * d2 * d2;
  }
  exponentials(upperExponent, premium);
  exponentials(lowerExponent, premium);
}

function premiumOf(
  { premium, premiumH, onStrike, onSpot, upper, upperExponent, lowerExponent }: Collocation,
  spot: number,
  strike: number,
  whole: number,
): number {
  let sum = 0;
  for (let k = 0; k < premium; k++) {
    const d1 = upper[k]!;
    const d2 = d1 - whole * premiumH[k]!;
    const tail1 = upperExponent[k]! * scaledTail(Math.abs(d1));
    const tail2 = lowerExponent[k]! * scaledTail(Math.abs(d2));
    sum += strike * onStrike[k]! * (d2 > 0 ? tail2 : 1 - tail2) - spot * onSpot[k]! * (d1 > 0 ? tail1 : 1 - tail1);
  }
  return sum;
}

function addPremiumGreeks(
  { premium, premiumH, onStrike, onSpot, upper, upperExponent, lowerExponent }: Collocation,
  put: Put,
  spot: number,
  strike: number,
  whole: number,
): void {
  for (let k = 0; k < premium; k++) {
    const s = whole * premiumH[k]!;
    const d1 = upper[k]!;
    const strikeBell = (onStrike[k]! * strike * INV_SQRT_2PI * lowerExponent[k]!) / (spot * s);
    const spotBell = (onSpot[k]! * INV_SQRT_2PI * upperExponent[k]!) / s;
    const tail = upperExponent[k]! * scaledTail(Math.abs(d1));
    put.delta += spotBell - strikeBell - onSpot[k]! * (d1 > 0 ? tail : 1 - tail);
    put.gamma += (strikeBell * ((d1 - s) / s + 1) + spotBell * (1 - d1 / s)) / spot;
  }
}
