import { rootBetween } from '../distributions';
import { payoffOf, type Payoff, type PayoffLeg } from './payoff';

/** What a structure gains at a moment, by the price of that moment. */
export interface ProfitCurve {
  /** Profit at a price, which is 0 or more. */
  readonly profitAt: (price: number) => number;
  /** Prices at which its slope may jump, and about which it bends: strikes. */
  readonly knots: readonly number[];
  /** Quantity of what is left when the price goes to infinity: calls and the underlying. */
  readonly quantity: number;
  /** Where the price may go at all, and how far it moves in a deviation, as a share. */
  readonly reach: ProfitReach;
}

export interface ProfitReach {
  readonly spot: number;
  readonly forward: number;
  /** σ√T of the time that the search looks over. */
  readonly deviation: number;
}

/** A stretch on which profit only rises or only falls. */
export interface ProfitStretch {
  readonly from: number;
  readonly to: number;
  readonly atFrom: number;
  readonly atTo: number;
}

/** Break-evens and limits, with the stretches between which profit turns. */
export interface Profile extends Payoff {
  readonly stretches: readonly ProfitStretch[];
}

/** The price is followed so many deviations up, to no more than e^40 of it: no vol of sense goes there. */
const REACH = 8;
const MOST_DEVIATION = 5;
/** Looks to each deviation. What is narrower than that is not found; nothing that is worth something for days bends so fast. */
const LOOKS = 12;
/** How near turning points and break-evens are found, as a share of the spot. */
const NEAR = 1e-8;
/** What rounding leaves of a profit that is nothing, as a share of the largest that is not far off. */
const ROUNDING = 1e-13;
const NOT_FAR = 4;

/**
 * Break-evens and limits of a profit that is smooth between its knots, from a price of 0 to F·e^(8σ√T): turning points are
 * bracketed on a grid of deviations and between the knots, and refined; break-evens lie between them.
 */
export function profileOf(curve: ProfitCurve): Profile {
  const { profitAt, knots, quantity, reach } = curve;
  const { spot, forward } = reach;
  const deviation = Math.min(reach.deviation, MOST_DEVIATION);
  const top = forward * Math.exp(REACH * deviation);
  const prices = new Set([0, spot, ...knots.filter((knot) => knot > 0), Math.max(top, 2 * spot, ...knots)]);
  if (deviation > 0) {
    for (let i = -REACH * LOOKS; i <= REACH * LOOKS; i++) prices.add(forward * Math.exp((i / LOOKS) * deviation));
  }
  const grid = [...prices].sort((a, b) => a - b);
  const values = grid.map(profitAt);
  const turns = turningPoints(profitAt, grid, values, NEAR * spot);
  const places = [...grid.map((price, i) => [price, values[i]!] as const), ...turns].sort(([a], [b]) => a - b);
  const far = NOT_FAR * Math.max(spot, forward, ...knots);
  const largest = places.reduce((most, [price, value]) => (price > far ? most : Math.max(most, Math.abs(value))), 0);
  const isNothing = (value: number) => Math.abs(value) <= ROUNDING * largest;
  const stretches = places.slice(1).map(([to, atTo], i) => {
    const [from, atFrom] = places[i]!;
    return { from, to, atFrom: isNothing(atFrom) ? 0 : atFrom, atTo: isNothing(atTo) ? 0 : atTo };
  });
  const breakEvens = breakEvensOf(profitAt, stretches);
  const extremes = places.map(([, value]) => value);
  return {
    breakEvens,
    maxProfit: quantity > 0 ? Infinity : Math.max(...extremes),
    maxLoss: quantity < 0 ? Infinity : Math.max(0, -Math.min(...extremes)),
    gains: gainsOf(stretches, breakEvens, quantity),
    stretches,
  };
}

/**
 * What legs come to at a moment: exactly where all of them have ended by then, else by search.
 *
 * @param legs by what they pay when they expire; the underlying as {@link heldLeg}
 * @param cost what was paid for them
 */
export function profileOfLegs(
  legs: readonly PayoffLeg[],
  cost: number,
  { profitAt, reach, isOver }: Pick<ProfitCurve, 'profitAt' | 'reach'> & { isOver: boolean },
): Profile {
  const knots = legs.map(({ strike }) => strike);
  const quantity = legs.reduce((sum, leg) => sum + (leg.sign > 0 ? leg.quantity : 0), 0);
  const found = profileOf({ profitAt, reach, knots, quantity });
  return isOver ? { ...found, ...payoffOf(legs, cost) } : found;
}

const GOLDEN = 0.5 * (Math.sqrt(5) - 1);
const MOST_SECTIONS = 200;

/** Turning points, where a look is higher or lower than both of its neighbours, by golden sections. */
function turningPoints(
  profitAt: (price: number) => number,
  grid: readonly number[],
  values: readonly number[],
  near: number,
): (readonly [number, number])[] {
  const found: (readonly [number, number])[] = [];
  for (let i = 1; i + 1 < grid.length; i++) {
    const [before, here, after] = [values[i - 1]!, values[i]!, values[i + 1]!];
    const sign = here >= before && here >= after ? 1 : here <= before && here <= after ? -1 : 0;
    if (sign === 0 || (here === before && here === after)) continue;
    let [a, b] = [grid[i - 1]!, grid[i + 1]!];
    let [c, d] = [b - GOLDEN * (b - a), a + GOLDEN * (b - a)];
    let [atC, atD] = [sign * profitAt(c), sign * profitAt(d)];
    for (let pass = 0; pass < MOST_SECTIONS && b - a > near; pass++) {
      if (atC > atD) {
        [b, d, atD] = [d, c, atC];
        c = b - GOLDEN * (b - a);
        atC = sign * profitAt(c);
      } else {
        [a, c, atC] = [c, d, atD];
        d = a + GOLDEN * (b - a);
        atD = sign * profitAt(d);
      }
    }
    const at = 0.5 * (a + b);
    found.push([at, profitAt(at)]);
  }
  return found;
}

/** Where profit passes through nothing, touches it, or where a stretch of nothing ends. */
function breakEvensOf(profitAt: (price: number) => number, stretches: readonly ProfitStretch[]): number[] {
  const found: number[] = [];
  if (stretches.every(({ atFrom, atTo }) => atFrom === 0 && atTo === 0)) return found;
  stretches.forEach(({ from, to, atFrom, atTo }, i) => {
    if (atFrom * atTo < 0) found.push(rootBetween(profitAt, from, to, atFrom, atTo));
    const next = stretches[i + 1];
    if (i === 0 && atFrom === 0) found.push(from);
    // A look at which it is nothing, but for those inside of a stretch of nothing.
    if (atTo === 0 && next && !(atFrom === 0 && next.atTo === 0)) found.push(to);
  });
  return found;
}

function gainsOf(
  stretches: readonly ProfitStretch[],
  breakEvens: readonly number[],
  quantity: number,
): Payoff['gains'] {
  const ends = [0, ...breakEvens.filter((price) => price > 0), Infinity];
  const gains: Payoff['gains'] = [];
  for (let i = 0; i + 1 < ends.length; i++) {
    const [from, to] = [ends[i]!, ends[i + 1]!];
    // Between break-evens profit keeps its sign, at any look inside.
    const inside = stretches.find(({ to: at, atTo }) => at > from && at < to && atTo !== 0)?.atTo;
    if (!((inside ?? (to === Infinity ? quantity : 0)) > 0)) continue;
    const before = gains.at(-1);
    if (before?.to === from) before.to = to;
    else gains.push({ from, to });
  }
  return gains;
}
