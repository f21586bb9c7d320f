import { isSolved, solveBoundary } from './boundary';
import { certainPrice, certainValues, UNMOVED } from './certain';
import { makeCollocation, type Collocation, type CollocationSize } from './collocation';
import type { EuropeanColumns } from './european';
import { DAYS_PER_YEAR } from './model';
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

/**
 * Prices of American options with a continuous yield, into the caller's column; calls by the symmetry of R. McDonald and
 * M. Schroder ("A parity result for American options", 1998).
 *
 * @param input contracts, as for the European kernel; a yield equal to the rate makes them options on a future
 * @param setting or tables of one's own
 * @param price results; NaN where rate and yield ask for two boundaries, see {@link earlyExercise}
 */
export function priceAmerican(
  input: EuropeanColumns,
  price: Float64Array,
  count: number,
  setting: AmericanSetting | Collocation = 'fast',
): void {
  const tables = typeof setting === 'string' ? tablesOf(setting) : setting;
  for (let i = 0; i < count; i++) {
    const [vol, years] = [input.vol[i]!, input.years[i]!];
    const { price: value } =
      input.sign[i]! > 0
        ? valuePut(tables, input.strike[i]!, input.spot[i]!, input.yield[i]!, input.rate[i]!, vol, years, false)
        : valuePut(tables, input.spot[i]!, input.strike[i]!, input.rate[i]!, input.yield[i]!, vol, years, false);
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
    ? valuePut(tablesOf(setting), strike, spot, input.yield, rate, vol, years, false).price
    : valuePut(tablesOf(setting), spot, strike, rate, input.yield, vol, years, false).price;
}

/** Price, delta and gamma: what one boundary gives. */
export type Sheet = readonly [price: number, delta: number, gamma: number];

function sheetOf(input: AmericanInput, setting: AmericanSetting): Sheet {
  const { sign, spot, strike, years, rate, vol } = input;
  const put =
    sign > 0
      ? valuePut(tablesOf(setting), strike, spot, input.yield, rate, vol, years, true)
      : valuePut(tablesOf(setting), spot, strike, rate, input.yield, vol, years, true);
  return sheetOfPut(put, sign, spot, strike);
}

/** What a put says of the contract that it stands for: the spot of a call is the strike of its put. */
export function sheetOfPut({ price, delta, gamma }: Put, sign: number, spot: number, strike: number): Sheet {
  if (sign < 0) return [price, delta, gamma];
  // Prices are homogeneous in spot and strike.
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
