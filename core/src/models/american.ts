import { exp, scaledTail, INV_SQRT_2PI, normalCdf } from '../distributions';
import { exponentials, isSolved, logLimit, solveBoundary } from './boundary';
import { certainPrice, certainValues, UNMOVED } from './certain';
import { makeCollocation, type Collocation, type CollocationSize } from './collocation';
import type { EuropeanColumns } from './european';
import { DAYS_PER_YEAR } from './model';

/**
 * How exactly an American contract is priced: `fast` to 1e-6 of spot, `precise` to 1e-8 with digits to spare, at some
 * twenty times the work.
 */
export type AmericanSetting = 'fast' | 'precise';

const SIZES: Record<AmericanSetting, CollocationSize> = {
  fast: { abscissae: 20, steps: 1, newton: 1, nodes: 10, premium: 32, start: 3, crowding: 2 },
  precise: { abscissae: 32, steps: 1, newton: 12, nodes: 16, premium: 48, start: 6, crowding: 2 },
};
const made = new Map<AmericanSetting, Collocation>();

function tablesOf(setting: AmericanSetting): Collocation {
  let tables = made.get(setting);
  if (!tables) made.set(setting, (tables = makeCollocation(SIZES[setting])));
  return tables;
}

/**
 * When a contract is exercised early. What exercising a put earns, rK − qS, decides it: `never` where that is not
 * positive for any S under K, below one boundary where it is for small S, and otherwise, at rates and yields that are
 * both negative, `between` two of them (L. Andersen and M. Lake, "Fast American option pricing: the double-boundary
 * case", 2021). A call is a put with rate and yield exchanged.
 *
 * @param sign +1 call, −1 put
 */
export function earlyExercise(sign: number, rate: number, carryYield: number): 'never' | 'single' | 'between' {
  const [r, q] = sign > 0 ? [carryYield, rate] : [rate, carryYield];
  if (r <= 0 && q >= r) return 'never';
  return r >= 0 ? 'single' : 'between';
}

/** Price of a put, and its derivatives to the spot. */
interface Put {
  price: number;
  delta: number;
  gamma: number;
}
const PUT: Put = { price: 0, delta: 0, gamma: 0 };

/** Undiscounted tails of the European put. */
function europeanPut(spot: number, strike: number, rate: number, carryYield: number, vol: number, years: number): Put {
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
 * An American put with one boundary: the European price and the premium, what exercising earns while the price is under
 * the boundary (I. J. Kim, "The analytic valuation of American options", 1990; P. Carr, R. Jarrow and R. Myneni,
 * "Alternative characterizations of American put options", 1992).
 */
function boundedPut(
  tables: Collocation,
  spot: number,
  strike: number,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
  hasGreeks: boolean,
): Put {
  if (!isSolved(tables, rate, carryYield, vol, years)) solveBoundary(tables, rate, carryYield, vol, years);
  const moneyness = Math.log(spot / strike);
  const put = europeanPut(spot, strike, rate, carryYield, vol, years);
  // What is worth more at the end is not exercised now, whatever a boundary says that next to no rate makes.
  if (moneyness <= tables.logBoundary[0]! && put.price <= strike - spot) return exercisedPut(spot, strike);
  fillPremium(tables, moneyness - logLimit(rate, carryYield), rate - carryYield, vol, years);
  put.price += premiumOf(tables, spot, strike, rate, carryYield, vol, years);
  if (hasGreeks) addPremiumGreeks(tables, put, spot, strike, rate, carryYield, vol, years);
  put.price = Math.max(put.price, strike - spot, 0);
  return put;
}

function fillPremium(tables: Collocation, gap: number, carry: number, vol: number, years: number): void {
  const { nodes, premium, premiumH, toPremium, square, upper, upperExponent, lowerExponent } = tables;
  for (let k = 0, at = 0; k < premium; k++) {
    let sum = 0;
    for (let j = 0; j < nodes; j++, at++) sum += toPremium[at]! * square[j]!;
    const x = premiumH[k]!;
    const s = vol * Math.sqrt(years) * x;
    const d2 = (gap + Math.sqrt(sum > 0 ? sum : 0) + carry * years * x * x) / s - 0.5 * s;
    const d1 = d2 + s;
    upper[k] = d1;
    upperExponent[k] = -0.5 * d1 * d1;
    lowerExponent[k] = -0.5 * d2 * d2;
  }
  exponentials(upperExponent, premium);
  exponentials(lowerExponent, premium);
}

function premiumOf(
  { premium, premiumH, premiumWeight, upper, upperExponent, lowerExponent }: Collocation,
  spot: number,
  strike: number,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
): number {
  const whole = vol * Math.sqrt(years);
  let sum = 0;
  for (let k = 0; k < premium; k++) {
    const x = premiumH[k]!;
    const t = years * x * x;
    const d1 = upper[k]!;
    const d2 = d1 - whole * x;
    const tail1 = upperExponent[k]! * scaledTail(Math.abs(d1));
    const tail2 = lowerExponent[k]! * scaledTail(Math.abs(d2));
    const onStrike = rate * strike * exp(-rate * t) * (d2 > 0 ? tail2 : 1 - tail2);
    const onSpot = carryYield * spot * exp(-carryYield * t) * (d1 > 0 ? tail1 : 1 - tail1);
    sum += premiumWeight[k]! * x * (onStrike - onSpot);
  }
  return 2 * years * sum;
}

function addPremiumGreeks(
  { premium, premiumH, premiumWeight, upper, upperExponent, lowerExponent }: Collocation,
  put: Put,
  spot: number,
  strike: number,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
): void {
  const whole = vol * Math.sqrt(years);
  let delta = 0;
  let gamma = 0;
  for (let k = 0; k < premium; k++) {
    const x = premiumH[k]!;
    const t = years * x * x;
    const s = whole * x;
    const d1 = upper[k]!;
    const d2 = d1 - s;
    const onStrike = (rate * strike * exp(-rate * t) * INV_SQRT_2PI * lowerExponent[k]!) / (spot * s);
    const dividend = carryYield * exp(-carryYield * t);
    const onSpot = (dividend * INV_SQRT_2PI * upperExponent[k]!) / s;
    const tail = upperExponent[k]! * scaledTail(Math.abs(d1));
    const weight = premiumWeight[k]! * x;
    delta += weight * (onSpot - onStrike - dividend * (d1 > 0 ? tail : 1 - tail));
    gamma += (weight * (onStrike * (d2 / s + 1) + onSpot * (1 - d1 / s))) / spot;
  }
  put.delta += 2 * years * delta;
  put.gamma += 2 * years * gamma;
}

/** Interest to expiry, as a share of the strike, that no price shows. */
const NO_INTEREST = 1e-12;

/** A put of any regime but the one with two boundaries, which is NaN. */
function valuePut(
  setting: AmericanSetting,
  spot: number,
  strike: number,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
  hasGreeks: boolean,
): Put {
  if (!(vol * Math.sqrt(years) > 0)) {
    PUT.price = certainPrice({ sign: -1, spot, strike, rate, yield: carryYield, years, isAmerican: true });
    PUT.delta = PUT.gamma = NaN;
    return PUT;
  }
  // Exercising never earns more than the interest on the strike: where that is under all digits there is no boundary.
  const isNeverExercised = rate * years <= NO_INTEREST && carryYield >= Math.min(rate, 0);
  if (isNeverExercised) return europeanPut(spot, strike, rate, carryYield, vol, years);
  if (rate >= 0) return boundedPut(tablesOf(setting), spot, strike, rate, carryYield, vol, years, hasGreeks);
  PUT.price = PUT.delta = PUT.gamma = NaN;
  return PUT;
}

/**
 * Prices of American options with a continuous yield, into the caller's column; calls by the symmetry of R. McDonald and
 * M. Schroder ("A parity result for American options", 1998).
 *
 * @param input contracts, as for the European kernel; a yield equal to the rate makes them options on a future
 * @param price results; NaN where rate and yield ask for two boundaries, see {@link earlyExercise}
 */
export function priceAmerican(
  input: EuropeanColumns,
  price: Float64Array,
  count: number,
  setting: AmericanSetting = 'fast',
): void {
  for (let i = 0; i < count; i++) {
    const [vol, years] = [input.vol[i]!, input.years[i]!];
    const { price: value } =
      input.sign[i]! > 0
        ? valuePut(setting, input.strike[i]!, input.spot[i]!, input.yield[i]!, input.rate[i]!, vol, years, false)
        : valuePut(setting, input.spot[i]!, input.strike[i]!, input.rate[i]!, input.yield[i]!, vol, years, false);
    price[i] = value;
  }
}

/** One American contract. */
export interface AmericanInput {
  /** +1 call, −1 put. */
  sign: number;
  spot: number;
  strike: number;
  years: number;
  rate: number;
  yield: number;
  vol: number;
}

/** Price of one contract, by the code of the batch. */
export function priceAmericanContract(input: AmericanInput, setting: AmericanSetting): number {
  const { sign, spot, strike, years, rate, vol } = input;
  return sign > 0
    ? valuePut(setting, strike, spot, input.yield, rate, vol, years, false).price
    : valuePut(setting, spot, strike, rate, input.yield, vol, years, false).price;
}

/** Price, delta and gamma: what one boundary gives. */
type Sheet = readonly [price: number, delta: number, gamma: number];

function sheetOf(input: AmericanInput, setting: AmericanSetting): Sheet {
  const { sign, spot, strike, years, rate, vol } = input;
  const carryYield = input.yield;
  if (sign < 0) {
    const { price, delta, gamma } = valuePut(setting, spot, strike, rate, carryYield, vol, years, true);
    return [price, delta, gamma];
  }
  const { price, delta, gamma } = valuePut(setting, strike, spot, carryYield, rate, vol, years, true);
  // The spot of the call is the strike of that put; prices are homogeneous in both.
  return [price, (price - strike * delta) / spot, (gamma * strike * strike) / (spot * spot)];
}

/** Derivatives to one input, by central differences of the fourth order. */
interface Slopes {
  first: Sheet;
  /** Of the price alone. */
  second: number;
}

function slopes(at: (x: number) => Sheet, x: number, step: number, here: Sheet): Slopes {
  const [a, b, c, d] = [at(x - 2 * step), at(x - step), at(x + step), at(x + 2 * step)];
  const first = (k: 0 | 1 | 2) => (8 * (c[k] - b[k]) - (d[k] - a[k])) / (12 * step);
  const second = (16 * (b[0] + c[0]) - a[0] - d[0] - 30 * here[0]) / (12 * step * step);
  return { first: [first(0), first(1), first(2)], second };
}

/** The same towards one side only, of the second order: where the other side is another regime. */
function slopeToward(at: (x: number) => Sheet, x: number, step: number, here: Sheet): number {
  return (4 * at(x + step)[0] - at(x + 2 * step)[0] - 3 * here[0]) / (2 * step);
}

/** Steps of the differences, as a share of the vol, of the years, of a deviation of the price; of rates as they are. */
const STEP = 0.01;
const RATE_STEP = 2e-4;

/**
 * Price and Greeks of one American contract, in the units of the conventions. Delta and gamma are those of the premium's
 * integral, theta follows from the Black–Scholes equation; the others are differences of prices whose own error is smooth
 * (one method on the same nodes), so that theirs is that of the differences: relative 1e-6 and better away from the
 * boundary. Where the contract is worth exercising now its price is the intrinsic value, and nothing else moves it.
 */
export function americanValues(input: AmericanInput, setting: AmericanSetting = 'precise') {
  const { sign, spot, strike, years, rate, vol } = input;
  if (!(vol * Math.sqrt(years) > 0)) return certainValues({ ...input, isAmerican: true });
  const here = sheetOf(input, setting);
  const [price, delta, gamma] = here;
  const isExercised = price > 0 && price === sign * (spot - strike) && gamma === 0;
  if (isExercised) return { price, delta, gamma, ...UNMOVED };
  const at = (change: Partial<AmericanInput>) => sheetOf({ ...input, ...change }, setting);
  const volStep = STEP * vol;
  const yearStep = STEP * years;
  const byVol = slopes((x) => at({ vol: x }), vol, volStep, here);
  const byYears = slopes((x) => at({ years: x }), years, yearStep, here);
  const bySpot = slopes((x) => at({ spot: x }), spot, STEP * spot * vol * Math.sqrt(years), here);
  const atRate = (x: number) => at({ rate: x });
  const byRate = slopes(atRate, rate, RATE_STEP, here).first[0];
  const rho = Number.isNaN(byRate)
    ? [RATE_STEP, -RATE_STEP].map((step) => slopeToward(atRate, rate, step, here)).find((slope) => !Number.isNaN(slope))
    : byRate;
  const corner = (v: number, t: number) => at({ vol: vol + v * volStep, years: years + t * yearStep })[0];
  const twist = (corner(1, 1) - corner(-1, 1) - corner(1, -1) + corner(-1, -1)) / (4 * volStep * yearStep);
  const perYear = rate * price - (rate - input.yield) * spot * delta - 0.5 * vol * vol * spot * spot * gamma;
  return {
    price,
    delta,
    gamma,
    theta: perYear / DAYS_PER_YEAR,
    vega: byVol.first[0] * 0.01,
    rho: (rho ?? NaN) * 0.01,
    vanna: byVol.first[1] * 0.01,
    volga: byVol.second * 1e-4,
    charm: -byYears.first[1] / DAYS_PER_YEAR,
    speed: bySpot.first[2],
    color: -byYears.first[2] / DAYS_PER_YEAR,
    veta: (-twist * 0.01) / DAYS_PER_YEAR,
    zomma: byVol.first[2] * 0.01,
  };
}
