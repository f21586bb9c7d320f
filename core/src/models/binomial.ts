import type { AmericanInput } from './american';
import { DAYS_PER_YEAR } from './model';

/** A cash dividend. */
export interface CashDividend {
  /** Years from now to its ex-date. */
  years: number;
  amount: number;
}

/** One contract in a tree. */
export interface BinomialInput extends AmericanInput {
  isAmerican: boolean;
  /** Those up to and with now, and from expiry on, do not count. */
  dividends?: readonly CashDividend[];
}

export const DEFAULT_STEPS = 501;
export const MOST_STEPS = 20_001;

/**
 * The inversion of J. Peizer and J. Pratt that Leisen and Reimer use (their method 2): the probability whose binomial
 * distribution over n steps best stands for N(z).
 */
function probability(z: number, steps: number): number {
  const a = z / (steps + 1 / 3 + 0.1 / (steps + 1));
  return 0.5 + 0.5 * Math.sign(z) * Math.sqrt(-Math.expm1(-a * a * (steps + 1 / 6)));
}

/** Nodes of a tree at the present moment: the spot less its dividends, and what the option is worth there. */
interface Present {
  /** Present value of the dividends. */
  escrowed: number;
  /** Under the spot, at it, and over it. */
  price: readonly [number, number, number];
  value: readonly [number, number, number];
}

/**
 * The tree of D. Leisen and M. Reimer ("Binomial models for option valuation: examining and improving convergence",
 * 1996), begun two steps before now: so it has three nodes at the present, the middle one of which is that of the plain
 * tree (A. Pelsser and T. Vorst, "The binomial model and the Greeks", 1994). Dividends are escrowed: the tree is that of
 * the spot less their present value, and what is still to come is added back to find what exercising earns, cum dividend
 * at the dividend's own moment.
 */
function present(input: BinomialInput, steps: number): Present {
  const { sign, spot, strike, years, rate, vol, isAmerican } = input;
  const escrow = escrowOf(input);
  const escrowed = escrow(0);
  const stripped = spot - escrowed;
  const n = Math.max(3, 2 * Math.floor(steps / 2) + 1);
  const dt = years / n;
  const deviation = vol * Math.sqrt(years);
  const growth = Math.exp((rate - input.yield) * dt);
  const d1 = (Math.log(stripped / strike) + (rate - input.yield) * years) / deviation + 0.5 * deviation;
  const p = probability(d1 - deviation, n);
  const up = (growth * probability(d1, n)) / p;
  const down = (growth - p * up) / (1 - p);
  const onUp = Math.exp(-rate * dt) * p;
  const onDown = Math.exp(-rate * dt) * (1 - p);
  const last = n + 2;
  const price = new Float64Array(last + 1);
  const value = new Float64Array(last + 1);
  const [logUp, logDown] = [Math.log(up), Math.log(down)];
  for (let j = 0; j <= last; j++) {
    price[j] = stripped * Math.exp((j - 1) * logUp + (n + 1 - j) * logDown);
    value[j] = Math.max(0, sign * (price[j]! - strike));
  }
  for (let i = last - 1; i >= 2; i--) {
    if (isAmerican) stepAmerican(price, value, i, onUp, onDown, 1 / down, sign, strike - escrow((i - 2) * dt));
    else stepEuropean(value, i, onUp, onDown);
  }
  const ratio = up / down;
  return {
    escrowed,
    price: [stripped / ratio, stripped, stripped * ratio],
    value: [value[0]!, value[1]!, value[2]!],
  };
}

/** Present value, at a moment, of the dividends from that moment on. */
function escrowOf({ dividends = [], years, rate }: BinomialInput): (from: number) => number {
  const paid = dividends.filter(({ years: at }) => at > 0 && at < years);
  return (from) =>
    paid.reduce(
      (sum, { years: at, amount }) => (at >= from - MOMENT ? sum + amount * Math.exp(-rate * (at - from)) : sum),
      0,
    );
}

/**
 * Price of a European or American option with cash dividends.
 *
 * @param steps made odd, at least 3: then the strike lies in the middle of the last nodes
 * @returns NaN where the present value of the dividends takes the whole spot
 */
export function priceBinomial(input: BinomialInput, steps = DEFAULT_STEPS): number {
  const stripped = input.spot - escrowOf(input)(0);
  if (!(stripped > 0)) return NaN;
  if (!(input.vol * Math.sqrt(input.years) > 0)) return certainPrice(input, stripped);
  return present(input, steps).value[1];
}

/** Share of the vol, and of a rate one, by which they are moved for vega and rho. */
const VOL_STEP = 0.01;
const RATE_STEP = 1e-4;

/**
 * Price and first Greeks from the tree, in the units of the conventions: delta and gamma of the parabola through the
 * three nodes of the present, theta of the Black–Scholes equation, in which the dividends grow with the rate; vega and rho
 * as central differences.
 */
export function binomialValues(input: BinomialInput, steps = DEFAULT_STEPS) {
  const stripped = input.spot - escrowOf(input)(0);
  if (!(stripped > 0 && input.vol * Math.sqrt(input.years) > 0)) {
    const price = priceBinomial(input, steps);
    return { price, delta: NaN, gamma: NaN, theta: NaN, vega: NaN, rho: NaN };
  }
  const { rate, vol, spot, strike, sign, isAmerican } = input;
  const { escrowed, price: x, value: v } = present(input, steps);
  const price = v[1];
  const [left, right] = [(v[1] - v[0]) / (x[1] - x[0]), (v[2] - v[1]) / (x[2] - x[1])];
  const gamma = (2 * (right - left)) / (x[2] - x[0]);
  const delta = (left * (x[2] - x[1]) + right * (x[1] - x[0])) / (x[2] - x[0]);
  const perYear =
    rate * (price - escrowed * delta) -
    (rate - input.yield) * stripped * delta -
    0.5 * vol * vol * stripped * stripped * gamma;
  const moved = (change: Partial<BinomialInput>) => priceBinomial({ ...input, ...change }, steps);
  const isExercised = isAmerican && price > 0 && price <= sign * (spot - strike);
  return {
    price,
    delta,
    gamma,
    theta: isExercised ? 0 : perYear / DAYS_PER_YEAR,
    vega: ((moved({ vol: vol * (1 + VOL_STEP) }) - moved({ vol: vol * (1 - VOL_STEP) })) / (2 * VOL_STEP * vol)) * 0.01,
    rho: ((moved({ rate: rate + RATE_STEP }) - moved({ rate: rate - RATE_STEP })) / (2 * RATE_STEP)) * 0.01,
  };
}

/** A dividend at a moment of the tree belongs to it, though the sum of its steps is not exact. */
const MOMENT = 1e-9;

function stepEuropean(value: Float64Array, i: number, onUp: number, onDown: number): void {
  for (let j = 0; j <= i; j++) value[j] = onUp * value[j + 1]! + onDown * value[j]!;
}

function stepAmerican(
  price: Float64Array,
  value: Float64Array,
  i: number,
  onUp: number,
  onDown: number,
  back: number,
  sign: number,
  strike: number,
): void {
  for (let j = 0; j <= i; j++) {
    const at = price[j]! * back;
    price[j] = at;
    const held = onUp * value[j + 1]! + onDown * value[j]!;
    const exercised = sign * (at - strike);
    value[j] = held > exercised ? held : exercised;
  }
}

/** Without vol the price moves along its forward; exercise is looked for at as many moments as a tree has. */
function certainPrice(input: BinomialInput, stripped: number): number {
  const { sign, strike, years, rate, isAmerican } = input;
  const escrow = escrowOf(input);
  const gain = (t: number) =>
    Math.exp(-rate * t) * sign * (stripped * Math.exp((rate - input.yield) * t) + escrow(t) - strike);
  const steps = isAmerican ? DEFAULT_STEPS : 1;
  const moments = Array.from({ length: steps + 1 }, (_, i) => (years * i) / steps);
  return Math.max(0, ...(isAmerican ? moments : moments.slice(-1)).map(gain));
}
