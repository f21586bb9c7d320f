import { dividendsOf, escrowOf } from './escrow';
import { DAYS_PER_YEAR, type CashDividend, type SpotTerms } from './model';

/** One contract on a price that moves along its forward. */
export interface CertainInput extends SpotTerms {
  isAmerican: boolean;
  dividends?: readonly CashDividend[] | undefined;
}

/** What exercising at a moment is worth now. */
function gainOf(input: CertainInput): (moment: number) => number {
  const { sign, spot, strike, rate } = input;
  const escrow = escrowOf(input);
  const stripped = spot - escrow(0);
  return (t) => sign * (stripped * Math.exp(-input.yield * t) + Math.exp(-rate * t) * (escrow(t) - strike));
}

/** Between dividends the best moment is looked for on a grid: next to it nothing earns more than the square of a cell. */
const CELLS = 500;

/** The ends, where exercising stops earning, and the dividends: cum a dividend at its own moment. */
function momentsOf({ spot, strike, years, rate, isAmerican, dividends, ...more }: CertainInput): number[] {
  if (!isAmerican) return [years];
  const paid = dividendsOf({ dividends, years, rate }).map((dividend) => dividend.years);
  const inside =
    paid.length > 0
      ? [...paid, ...Array.from({ length: CELLS }, (_, i) => (years * i) / CELLS)]
      : [Math.log((rate * strike) / (more.yield * spot)) / (rate - more.yield)];
  return [0, years, ...inside.filter((t) => t > 0 && t < years)];
}

/** The best moment, the first of equals, and what it earns; less than nothing where it is left. */
function best(input: CertainInput): { moment: number; gain: number } {
  const gainAt = gainOf(input);
  let [moment, gain] = [0, -Infinity];
  for (const t of momentsOf(input)) {
    const at = gainAt(t);
    if (at > gain) [moment, gain] = [t, at];
  }
  return { moment, gain };
}

/** Price without any vol: what the best moment along the forward earns. */
export function certainPrice(input: CertainInput): number {
  return Math.max(0, best(input).gain);
}

/** Greeks of what nothing but the price moves. */
export const UNMOVED = {
  theta: 0,
  vega: 0,
  rho: 0,
  vanna: 0,
  volga: 0,
  charm: 0,
  speed: 0,
  color: 0,
  veta: 0,
  zomma: 0,
};

const STEP = 1e-5;

/**
 * Price and Greeks without any vol. Vega and what bends are zero; where the best moment earns exactly nothing the price
 * has a kink, its delta is half of one side and what bends does not exist.
 */
export function certainValues(input: CertainInput) {
  const { sign, rate } = input;
  const { moment, gain } = best(input);
  const step = gain > 0 ? 1 : gain < 0 ? 0 : 0.5;
  const later = (time: number): CertainInput => ({
    ...input,
    years: input.years - time,
    dividends: input.dividends?.map(({ years, amount }) => ({ years: years - time, amount })),
  });
  const delta = (at: number) => sign * step * Math.exp(-input.yield * at);
  const byTime = (value: (at: CertainInput) => number) =>
    input.years > STEP ? (value(later(STEP)) - value(later(-STEP))) / (2 * STEP * DAYS_PER_YEAR) : 0;
  const atRate = (change: number) => best({ ...input, rate: rate + change }).gain;
  const bent = gain === 0 ? NaN : 0;
  return {
    price: Math.max(0, gain),
    delta: delta(moment),
    gamma: bent,
    theta: step * byTime((at) => best(at).gain),
    vega: bent,
    rho: ((step * (atRate(STEP) - atRate(-STEP))) / (2 * STEP)) * 0.01,
    vanna: bent,
    volga: bent,
    charm: byTime((at) => delta(best(at).moment)),
    speed: bent,
    color: bent,
    veta: bent,
    zomma: bent,
  };
}
