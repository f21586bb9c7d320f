import { certainPrice, certainValues, UNMOVED, type CertainInput } from './certain';
import { along, greeksOf, type Nodes } from './differences';
import { escrowOf } from './escrow';

/** One contract in a tree; the dividends up to and with now, and from expiry on, do not count. */
export interface BinomialInput extends CertainInput {
  vol: number;
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
 * Probability of a step up, and what a step up and one down multiply the price by.
 *
 * @param steps odd
 */
export function leisenReimer(input: BinomialInput, steps: number): { up: number; rise: number; fall: number } {
  const { spot, strike, years, rate, vol } = input;
  const deviation = vol * Math.sqrt(years);
  const growth = Math.exp(((rate - input.yield) * years) / steps);
  const moneyness = Math.log((spot - escrowOf(input)(0)) / strike) + (rate - input.yield) * years;
  const d1 = moneyness / deviation + 0.5 * deviation;
  const up = probability(d1 - deviation, steps);
  const rise = (growth * probability(d1, steps)) / up;
  return { up, rise, fall: (growth - up * rise) / (1 - up) };
}

/**
 * The tree of D. Leisen and M. Reimer ("Binomial models for option valuation: examining and improving convergence",
 * 1996), begun two steps before now: so it has three nodes at the present, the middle one of which is that of the plain
 * tree (A. Pelsser and T. Vorst, "The binomial model and the Greeks", 1994). Dividends are escrowed: the tree is that of
 * the spot less their present value, and what is still to come is added back to find what exercising earns, cum dividend
 * at the dividend's own moment.
 */
function present(input: BinomialInput, steps: number): Present {
  const { sign, spot, strike, years, rate, isAmerican } = input;
  const escrow = escrowOf(input);
  const escrowed = escrow(0);
  const stripped = spot - escrowed;
  const n = Math.max(3, 2 * Math.floor(steps / 2) + 1);
  const dt = years / n;
  const { up: p, rise: up, fall: down } = leisenReimer(input, n);
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

/**
 * Price of a European or American option with cash dividends.
 *
 * @param steps made odd, at least 3: then the strike lies in the middle of the last nodes
 * @returns NaN where the present value of the dividends takes the whole spot
 */
export function priceBinomial(input: BinomialInput, steps = DEFAULT_STEPS): number {
  if (!(input.spot - escrowOf(input)(0) > 0)) return NaN;
  if (!hasNodes(input, steps)) return certainPrice(input);
  return present(input, steps).value[1];
}

/** A step that moves the price by less than this, relative, leaves no digits to a difference of its nodes. */
const LEAST_STEP = 1e-9;
/** A strike more deviations away than this is on one side of all nodes that count. */
const MOST_DEVIATIONS = 7;

/** Whether the nodes of a tree stand apart, and on both sides of the strike: else the price moves along its forward. */
function hasNodes(input: BinomialInput, steps: number): boolean {
  const { vol, years, spot, strike, rate } = input;
  if (!(vol * Math.sqrt(years / steps) > LEAST_STEP)) return false;
  const deviation = vol * Math.sqrt(years);
  const distance = Math.log((spot - escrowOf(input)(0)) / strike) + (rate - input.yield) * years;
  return Math.abs(distance) / deviation + 0.5 * deviation < MOST_DEVIATIONS;
}

/** Of the spot: what is left of the time value is rounding. */
const NO_TIME_VALUE = 1e-12;

/** Whether the best that can be done is to exercise now. */
function isExercised({ sign, spot, strike, isAmerican }: BinomialInput, price: number): boolean {
  return isAmerican && price > 0 && price <= sign * (spot - strike) + NO_TIME_VALUE * spot;
}

/** Delta and gamma of the parabola through the nodes of the present; the dividends grow with the rate. */
function nodesOf(input: BinomialInput, steps: number): Nodes {
  const { rate, vol, spot } = input;
  const { escrowed, price: x, value: v } = present(input, steps);
  const price = v[1];
  const [left, right] = [(v[1] - v[0]) / (x[1] - x[0]), (v[2] - v[1]) / (x[2] - x[1])];
  const gamma = (2 * (right - left)) / (x[2] - x[0]);
  const delta = (left * (x[2] - x[1]) + right * (x[1] - x[0])) / (x[2] - x[0]);
  const stripped = spot - escrowed;
  const theta =
    rate * (price - escrowed * delta) -
    (rate - input.yield) * stripped * delta -
    0.5 * vol * vol * stripped * stripped * gamma;
  return [price, delta, gamma, isExercised(input, price) ? 0 : theta];
}

/** Price, delta and gamma of one tree. */
export function binomialNodes(input: BinomialInput, steps = DEFAULT_STEPS) {
  if (!hasNodes(input, steps)) return certainValues(input);
  const [price, delta, gamma] = nodesOf(input, steps);
  return { price, delta, gamma };
}

/** Shares of the vol and of a deviation of the price, and a rate, by which they are moved. */
const VOL_STEP = 0.05;
const SPOT_STEP = 0.1;
const RATE_STEP = 1e-4;

/**
 * Price and Greeks from trees, in the units of the conventions: delta, gamma and theta from the nodes of one; what vol,
 * spot and rate do to them as central differences of trees of the same steps.
 */
export function binomialValues(input: BinomialInput, steps = DEFAULT_STEPS) {
  const stripped = input.spot - escrowOf(input)(0);
  if (!hasNodes(input, steps) || !(stripped > 0)) {
    return stripped > 0 ? certainValues(input) : certainValues({ ...input, spot: NaN });
  }
  const { sign, strike, rate, vol, spot } = input;
  const here = nodesOf(input, steps);
  const [price] = here;
  if (isExercised(input, price)) return { price: sign * (spot - strike), delta: sign, gamma: 0, ...UNMOVED };
  const spotStep = SPOT_STEP * stripped * Math.min(0.5, vol * Math.sqrt(input.years));
  const at = (change: Partial<BinomialInput>) => nodesOf({ ...input, ...change }, steps);
  const byVol = along((x) => at({ vol: x }), vol, VOL_STEP * vol, here);
  const bySpot = along((x) => at({ spot: x }), spot, spotStep, here);
  const byRate = at({ rate: rate + RATE_STEP })[0] - at({ rate: rate - RATE_STEP })[0];
  return greeksOf(here, byVol, bySpot, byRate / (2 * RATE_STEP));
}

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
