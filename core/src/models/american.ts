import { isSolved, solveBoundary } from './boundary';
import { certainPrice, certainValues, UNMOVED } from './certain';
import { makeCollocation, type Collocation, type CollocationSize } from './collocation';
import { along, greeksOf, type Nodes } from './differences';
import type { EuropeanColumns } from './european';
import type { SpotTerms } from './model';
import { boundedPut, europeanPut, PUT, type Put } from './premium';

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

/** The tables of a setting, made when they are first asked for. */
export function tablesOf(setting: AmericanSetting): Collocation {
  let tables = made.get(setting);
  if (!tables) made.set(setting, (tables = makeCollocation(SIZES[setting])));
  return tables;
}

/** Interest to expiry, as a share of the strike, that no price shows. */
const NO_INTEREST = 1e-12;

/**
 * When a contract is exercised early. What exercising a put earns, rK − qS, decides it: `never` where that is not
 * positive for any S under K, below one boundary where it is for small S, and otherwise, at rates and yields that are
 * both negative, `between` two of them (L. Andersen and M. Lake, "Fast American option pricing: the double-boundary
 * case", 2021). A call is a put with rate and yield exchanged.
 *
 * @param sign +1 call, −1 put
 * @param years a life so short that it pays no interest has no boundary either
 */
export function earlyExercise(
  sign: number,
  rate: number,
  carryYield: number,
  years = Number.MAX_VALUE,
): 'never' | 'single' | 'between' {
  const [r, q] = sign > 0 ? [carryYield, rate] : [rate, carryYield];
  // Exercising never earns more than the interest on the strike: where that is under all digits there is no boundary.
  if (r * years <= NO_INTEREST && q >= Math.min(r, 0)) return 'never';
  return r >= 0 ? 'single' : 'between';
}

/** A put of any regime but the one with two boundaries, which is NaN. */
export function valuePut(
  tables: Collocation,
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
  const regime = earlyExercise(-1, rate, carryYield, years);
  if (regime === 'never') return europeanPut(spot, strike, rate, carryYield, vol, years);
  if (regime === 'between') {
    PUT.price = PUT.delta = PUT.gamma = NaN;
    return PUT;
  }
  if (!isSolved(tables, rate, carryYield, vol, years)) solveBoundary(tables, rate, carryYield, vol, years);
  return boundedPut(tables, spot, strike, rate, carryYield, vol, years, hasGreeks);
}

/** The put that a contract stands for: of a call, spot and strike, rate and yield are exchanged. */
function putOf(
  tables: Collocation,
  sign: number,
  spot: number,
  strike: number,
  rate: number,
  carryYield: number,
  vol: number,
  years: number,
  hasGreeks: boolean,
): Put {
  return sign > 0
    ? valuePut(tables, strike, spot, carryYield, rate, vol, years, hasGreeks)
    : valuePut(tables, spot, strike, rate, carryYield, vol, years, hasGreeks);
}

/**
 * Prices of American options with a continuous yield, into the caller's column; calls by the symmetry of R. McDonald and
 * M. Schroder ("A parity result for American options", 1998).
 *
 * @param input contracts, as for the European kernel; a yield equal to the rate makes them options on a future
 * @param setting accuracy, or custom tables
 * @param price results; NaN where rate and yield ask for two boundaries, see {@link earlyExercise}
 */
export function priceAmerican(
  input: EuropeanColumns,
  price: Float64Array,
  count: number,
  setting: AmericanSetting | Collocation = 'fast',
): void {
  const tables = typeof setting === 'string' ? tablesOf(setting) : setting;
  const { sign, spot, strike, rate, yield: carryYield, vol, years } = input;
  for (let i = 0; i < count; i++) {
    price[i] = putOf(tables, sign[i]!, spot[i]!, strike[i]!, rate[i]!, carryYield[i]!, vol[i]!, years[i]!, false).price;
  }
}

/** One American contract. */
export interface AmericanInput extends SpotTerms {
  vol: number;
}

function putOfInput(input: AmericanInput, setting: AmericanSetting, hasGreeks: boolean): Put {
  const { sign, spot, strike, years, rate, vol } = input;
  return putOf(tablesOf(setting), sign, spot, strike, rate, input.yield, vol, years, hasGreeks);
}

/** Price of one contract, by the code of the batch. */
export function priceAmericanContract(input: AmericanInput, setting: AmericanSetting): number {
  return putOfInput(input, setting, false).price;
}

/** Price, delta and gamma: what one boundary gives. */
export type Sheet = readonly [price: number, delta: number, gamma: number];

/** What a put says of the contract that it stands for: the spot of a call is the strike of its put. */
export function sheetOfPut({ price, delta, gamma }: Put, sign: number, spot: number, strike: number): Sheet {
  if (sign < 0) return [price, delta, gamma];
  // Prices are homogeneous in spot and strike.
  return [price, (price - strike * delta) / spot, (gamma * strike * strike) / (spot * spot)];
}

/** Whether the best that can be done is to exercise now: nothing but the price moves the contract then. */
export function isSheetExercised([price, , gamma]: Sheet, sign: number, spot: number, strike: number): boolean {
  return price > 0 && price === sign * (spot - strike) && gamma === 0;
}

/** Theta in years, by the Black–Scholes equation; time takes nothing from what is worth exercising. */
export function sheetTheta(sheet: Sheet, { sign, spot, strike, rate, vol, yield: carryYield }: AmericanInput): number {
  if (isSheetExercised(sheet, sign, spot, strike)) return 0;
  const [price, delta, gamma] = sheet;
  return rate * price - (rate - carryYield) * spot * delta - 0.5 * vol * vol * spot * spot * gamma;
}

function nodesOf(input: AmericanInput, setting: AmericanSetting): Nodes {
  const sheet = sheetOfPut(putOfInput(input, setting, true), input.sign, input.spot, input.strike);
  return [...sheet, sheetTheta(sheet, input)];
}

/** A slope towards one side only, of the second order: where the other side is another regime. */
function slopeToward(at: (x: number) => Nodes, x: number, step: number, here: Nodes): number {
  return (4 * at(x + step)[0] - at(x + 2 * step)[0] - 3 * here[0]) / (2 * step);
}

/** Steps of the differences, as a share of the vol and of a deviation of the price; of rates as they are. */
const STEP = 0.01;
const RATE_STEP = 2e-4;

/**
 * Price and Greeks of one American contract, in the units of the conventions. Delta and gamma are those of the premium's
 * integral, theta follows from the Black–Scholes equation; the others are differences of these, whose own error is smooth
 * (one method on the same nodes), so that theirs is that of the differences: relative 1e-6 and better away from the
 * boundary. Where the contract is worth exercising now its price is the intrinsic value, and nothing else moves it.
 */
export function americanValues(input: AmericanInput, setting: AmericanSetting = 'precise') {
  const { sign, spot, strike, years, rate, vol } = input;
  if (!(vol * Math.sqrt(years) > 0)) return certainValues({ ...input, isAmerican: true });
  const here = nodesOf(input, setting);
  const [price, delta, gamma] = here;
  if (isSheetExercised([price, delta, gamma], sign, spot, strike)) return { price, delta, gamma, ...UNMOVED };
  const at = (change: Partial<AmericanInput>) => nodesOf({ ...input, ...change }, setting);
  // The spot first: the boundary does not depend on it, and is held.
  const bySpot = along((x) => at({ spot: x }), spot, STEP * spot * vol * Math.sqrt(years), here);
  const byVol = along((x) => at({ vol: x }), vol, STEP * vol, here);
  const atRate = (x: number) => at({ rate: x });
  const byRate = along(atRate, rate, RATE_STEP, here).slope(0);
  const rho = Number.isNaN(byRate)
    ? [RATE_STEP, -RATE_STEP].map((step) => slopeToward(atRate, rate, step, here)).find((slope) => !Number.isNaN(slope))
    : byRate;
  return greeksOf(here, byVol, bySpot, rho ?? NaN);
}
