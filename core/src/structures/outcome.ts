import { gaussLegendre, rootBetween } from '../distributions';
import { oddsUnder, type Law } from '../odds';
import type { Profile, ProfitStretch } from './profile';

/** What a profit comes to under a law of the price. */
export interface Outcome {
  /** Odds of a profit over nothing. */
  profit: number;
  /** Mean profit, and its standard deviation. */
  expected: number;
  deviation: number;
  /** Mean of the worst twentieth. */
  worst5: number;
}

export const NO_OUTCOME: Outcome = { profit: NaN, expected: NaN, deviation: NaN, worst5: NaN };

/** The share of outcomes that are the worst. */
const WORST = 0.05;
/** The law is followed for so many deviations, and on to where less is left of it than anything counts. */
const USUAL_REACH = 10;
const FURTHEST = 100;
const NOTHING = 1e-13;
/** So many deviations are integrated over at a time. */
const PANEL = 0.5;
const { x: ABSCISSAE, weight: WEIGHTS } = gaussLegendre(16);

/** Integrals of a smooth profit over a continuous law, by Gauss–Legendre between its knots. */
interface Integrals {
  readonly mass: number;
  readonly first: number;
  readonly second: number;
}

/**
 * Odds of a profit, its mean, deviation and worst twentieth, under a continuous law: integrals by Gauss and Legendre over the
 * pieces between its knots, in panels of half a deviation.
 *
 * @param forward of the horizon
 * @param spread about one deviation of the law
 */
export function outcomeUnder(
  law: Law,
  { forward, spread }: { forward: number; spread: number },
  profitAt: (price: number) => number,
  profile: Profile,
  knots: readonly number[],
): Outcome {
  const under = (price: number) => oddsUnder(law, forward, price);
  const profit = profile.gains.reduce((sum, { from, to }) => sum + under(to) - under(from), 0);
  if (!(spread > 0)) {
    // The price ends at the forward for certain.
    const value = profitAt(forward);
    return { profit: Number(value > 0), expected: value, deviation: 0, worst5: value };
  }
  const cuts = knots.filter((knot) => knot > 0).map((knot) => Math.log(knot / forward));
  const integrate = (from: number, to: number): Integrals => integrals(law, forward, profitAt, cuts, spread, from, to);
  const ends = reachOf(law, spread);
  const whole = integrate(...ends);
  const expected = whole.first / whole.mass;
  const deviation = Math.sqrt(Math.max(0, whole.second / whole.mass - expected * expected));
  return {
    profit,
    expected,
    deviation,
    worst5: worstMean(profile.stretches, forward, profitAt, under, integrate, ends),
  };
}

/** Between which log-moneynesses a law lies: wings of a curve reach further than those of a normal. */
function reachOf(law: Law, spread: number): readonly [number, number] {
  const further = (left: (reach: number) => number) => {
    let reach = USUAL_REACH;
    while (reach < FURTHEST && left(reach * spread) > NOTHING) reach *= 1.25;
    return reach * spread;
  };
  return [-further((k) => law.under(-k)), further((k) => 1 - law.under(k))];
}

function integrals(
  law: Law,
  forward: number,
  profitAt: (price: number) => number,
  cuts: readonly number[],
  spread: number,
  from: number,
  to: number,
): Integrals {
  const ends = [from, ...cuts.filter((cut) => cut > from && cut < to), to].sort((a, b) => a - b);
  let [mass, first, second] = [0, 0, 0];
  for (let i = 0; i + 1 < ends.length; i++) {
    const width = ends[i + 1]! - ends[i]!;
    const panels = Math.max(1, Math.ceil(width / (PANEL * spread)));
    const step = width / panels;
    for (let panel = 0; panel < panels; panel++) {
      const start = ends[i]! + panel * step;
      for (let n = 0; n < ABSCISSAE.length; n++) {
        const k = start + step * ABSCISSAE[n]!;
        const weight = step * WEIGHTS[n]! * law.density(k);
        const value = profitAt(forward * Math.exp(k));
        mass += weight;
        first += weight * value;
        second += weight * value * value;
      }
    }
  }
  return { mass, first, second };
}

/** Where profit is no more than a value, as stretches of the price. */
function atMost(
  stretches: readonly ProfitStretch[],
  profitAt: (price: number) => number,
  value: number,
): [number, number][] {
  const found: [number, number][] = [];
  for (const { from, to, atFrom, atTo } of stretches) {
    if (Math.min(atFrom, atTo) > value) continue;
    const [isFrom, isTo] = [atFrom <= value, atTo <= value];
    const cut =
      isFrom === isTo ? NaN : rootBetween((price) => profitAt(price) - value, from, to, atFrom - value, atTo - value);
    const piece: [number, number] = isFrom && isTo ? [from, to] : isFrom ? [from, cut] : [cut, to];
    const before = found.at(-1);
    if (before && before[1] === piece[0]) before[1] = piece[1];
    else found.push(piece);
  }
  return found;
}

const HALVINGS = 60;

/** The mean of the worst twentieth: of what is under the profit that so much is under, and of that profit for what is left. */
function worstMean(
  stretches: readonly ProfitStretch[],
  forward: number,
  profitAt: (price: number) => number,
  under: (price: number) => number,
  integrate: (from: number, to: number) => Integrals,
  [lowest, highest]: readonly [number, number],
): number {
  const last = stretches.at(-1)!;
  const beyond = (value: number) => (last.atTo <= value ? 1 - under(last.to) : 0);
  const share = (value: number) =>
    atMost(stretches, profitAt, value).reduce((sum, [from, to]) => sum + under(to) - under(from), beyond(value));
  let low = Math.min(...stretches.flatMap(({ atFrom, atTo }) => [atFrom, atTo]));
  if (share(low) < WORST) {
    let high = Math.max(...stretches.flatMap(({ atFrom, atTo }) => [atFrom, atTo]));
    for (let i = 0; i < HALVINGS; i++) {
      const middle = 0.5 * (low + high);
      if (share(middle) < WORST) low = middle;
      else high = middle;
    }
  }
  // Strictly less than it: what is at the value itself counts for what is missing.
  const pieces = atMost(stretches, profitAt, low);
  let [mass, sum] = [0, 0];
  for (const [from, to] of pieces) {
    const clamped = (price: number) =>
      Math.min(Math.max(price > 0 ? Math.log(price / forward) : lowest, lowest), highest);
    const part = integrate(clamped(from), clamped(to));
    mass += part.mass;
    sum += part.first;
  }
  return (sum + low * (WORST - mass)) / WORST;
}

/** {@link outcomeUnder} of a sample: every price that it ends at counts the same. */
export function outcomeOf(prices: Float64Array, profitAt: (price: number) => number): Outcome {
  if (prices.length === 0) return NO_OUTCOME;
  const profits = prices.map(profitAt).sort();
  const count = profits.length;
  const expected = profits.reduce((sum, value) => sum + value, 0) / count;
  const squares = profits.reduce((sum, value) => sum + (value - expected) ** 2, 0);
  const most = WORST * count;
  let worst = 0;
  for (let i = 0; i < most; i++) worst += profits[i]! * Math.min(1, most - i);
  return {
    profit: profits.reduce((sum, value) => sum + Number(value > 0), 0) / count,
    expected,
    deviation: Math.sqrt(squares / count),
    worst5: worst / most,
  };
}
