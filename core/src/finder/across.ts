import { countUpTo, rootBetween } from '../distributions';
import { lognormalUndiscounted } from '../models';
import { unmoved, type Scenario } from '../structures';
import { Adder } from './adder';
import { errorOfPast, STRESS_CELLS, type SolvedExpiry, type SolvedMarket } from './solved';
import { solveStress, stressCells, stressOf } from './stress';
import { MOST_LEGS, PLACE, type CandidateTable } from './table';
import { touchOf } from './touch';

/** Prices at which a far contract is valued when the near one ends: evenly in their logarithm over five deviations on each side. */
const POINTS = 65;
const REACH = 5;
/** How far limits are looked for, as `profileOf` has it. */
const FURTHEST = 8;
const MOST_DEVIATION = 5;
/** So many quantiles of the past say what all of it does. */
const MOST_ENDS = 2000;

/** A far contract at the end of a near expiry. */
interface FarThere {
  readonly valueAt: (price: number) => number;
  /** Its values at the points. */
  readonly values: Float64Array;
  /** Its values at past ends, and those. */
  readonly pastValues: Float64Array | null;
  readonly stress: Float64Array | null;
}

/** Prices of a near expiry that far contracts are valued at. */
interface Points {
  readonly prices: Float64Array;
  readonly pastPrices: Float64Array | null;
}

/**
 * Measures of a near contract that is sold against a far one of the same side, when the near one ends: the far one is revalued on its
 * curve, each strike with its vol. Until the near strike its value rises no faster than the price, and after it no slower than
 * what is owed, so that the most is gained at that strike and there is a break-even on either side at most.
 */
export class AcrossMeasures {
  private readonly adder: Adder;
  private readonly points = new Map<number, Points>();
  private readonly far = new Map<number, FarThere>();

  constructor(
    private readonly solved: SolvedMarket,
    private readonly table: CandidateTable,
  ) {
    this.adder = new Adder(solved, table);
  }

  measure(at: number): void {
    const { contracts, expiries, asked } = this.solved;
    const { columns, legs, quantities } = this.table;
    const ids = [legs[MOST_LEGS * at]!, legs[MOST_LEGS * at + 1]!] as const;
    const [nearId, farId] = quantities[MOST_LEGS * at]! < 0 ? ids : [ids[1], ids[0]];
    const place = contracts.expiry[nearId]!;
    const near = expiries[place]!;
    const far = expiries[contracts.expiry[farId]!]!;
    const entry = this.adder.add(at);
    const there = this.farAt(farId, place);
    const [sign, strike] = [contracts.sign[nearId]!, contracts.strike[nearId]!];
    const profitAt = (price: number) => there.valueAt(price) - Math.max(0, sign * (price - strike)) - entry;
    const still = unmoved(this.solved.spot);
    const deviation = Math.min(MOST_DEVIATION, Math.max(near.moved.spread(still), far.moved.spread(still)));
    const top = Math.max(
      near.fit.forward * Math.exp(FURTHEST * deviation),
      2 * this.solved.spot,
      strike,
      contracts.strike[farId]!,
    );
    const most = profitAt(strike);
    const ends = [profitAt(0), profitAt(top)] as const;
    const least = Math.min(...ends, most);
    const maxLoss = least < 0 ? -least : 0;
    const evens = [
      most > 0 && ends[0] < 0 ? this.even(profitAt, there, place, [0, strike], entry, nearId) : 0,
      most > 0 && ends[1] < 0 ? this.even(profitAt, there, place, [strike, top], entry, nearId) : Infinity,
    ] as const;
    const distance = Math.abs(strike - contracts.strike[farId]!);
    columns[PLACE.width]![at] = distance;
    columns[PLACE.maxProfit]![at] = most;
    columns[PLACE.maxLoss]![at] = maxLoss;
    columns[PLACE.capital]![at] = maxLoss;
    columns[PLACE.rewardToRisk]![at] = most / maxLoss;
    columns[PLACE.returnOnRisk]![at] = most / maxLoss;
    columns[PLACE.annualized]![at] = most / maxLoss / near.fit.years;
    columns[PLACE.stress]![at] = asked.hasStress ? this.worstCell(nearId, farId, place, entry) : NaN;
    this.tellOdds(at, near, evens, most > 0);
    columns[PLACE.touch]![at] = touchOf(this.solved, this.table, at, near);
    const past = this.pastWorth(near, there, nearId, entry, maxLoss);
    this.adder.edges(at, entry, maxLoss, past?.error ?? NaN, past?.worth ?? NaN);
  }

  private pointsOf(place: number): Points {
    const known = this.points.get(place);
    if (known) return known;
    const { fit, deviation, past } = this.solved.expiries[place]!;
    const prices = Float64Array.from(
      { length: POINTS },
      (_, i) => fit.forward * Math.exp(REACH * deviation * ((2 * i) / (POINTS - 1) - 1)),
    );
    const made = { prices, pastPrices: past && quantilesOf(past.prices) };
    this.points.set(place, made);
    return made;
  }

  private farAt(farId: number, place: number): FarThere {
    const { contracts, expiries, spot, asked } = this.solved;
    const key = farId * expiries.length + place;
    const known = this.far.get(key);
    if (known) return known;
    const near = expiries[place]!;
    const { moved } = expiries[contracts.expiry[farId]!]!;
    const { prices, pastPrices } = this.pointsOf(place);
    const [sign, strike] = [contracts.sign[farId]!, contracts.strike[farId]!];
    const elapsed = near.fit.years;
    const valueAt = (price: number) => {
      const scenario: Scenario = { ...unmoved(price), elapsed };
      return moved.value(sign, strike, scenario);
    };
    const values = prices.map(valueAt);
    const stress = asked.hasStress ? new Float64Array(STRESS_CELLS) : null;
    if (stress) stressOf(moved, contracts, farId, stressCells(spot, near.deviation), stress, 0);
    const pastValues = pastPrices && pastPrices.map((price) => between(prices, values, price, valueAt));
    const made = { valueAt, values, pastValues, stress };
    this.far.set(key, made);
    return made;
  }

  /** Where a profit is nothing between two prices: the points tell about where, and it is found exactly there. */
  private even(
    profitAt: (price: number) => number,
    { values }: FarThere,
    place: number,
    [from, to]: readonly [number, number],
    entry: number,
    nearId: number,
  ): number {
    const { prices } = this.pointsOf(place);
    const { contracts } = this.solved;
    const [sign, strike] = [contracts.sign[nearId]!, contracts.strike[nearId]!];
    let [low, high] = [from, to];
    const isRising = to === strike;
    for (let i = 0; i < prices.length; i++) {
      const price = prices[i]!;
      if (price <= low || price >= high) continue;
      const profit = values[i]! - Math.max(0, sign * (price - strike)) - entry;
      // Rising up to the strike, falling from it on.
      if (profit > 0 === isRising) {
        high = price;
        if (isRising) break;
      } else low = price;
    }
    const [atLow, atHigh] = [profitAt(low), profitAt(high)];
    if (atLow === 0) return low;
    return atLow * atHigh < 0 ? rootBetween(profitAt, low, high, atLow, atHigh) : high;
  }

  private tellOdds(at: number, near: SolvedExpiry, [from, to]: readonly [number, number], hasGain: boolean): void {
    const { columns } = this.table;
    const { fit, law, own, past, deviation } = near;
    const within = (under: (price: number) => number) =>
      hasGain ? (to === Infinity ? 1 : under(to)) - (from > 0 ? under(from) : 0) : 0;
    const logOf = (price: number) => Math.log(price / fit.forward);
    columns[PLACE.probabilityOfProfit]![at] = within((price) => law.under(logOf(price)));
    columns[PLACE['odds.ownVol']]![at] = own ? within((price) => own.under(logOf(price))) : NaN;
    columns[PLACE['odds.past']]![at] = past
      ? within((price) => countUpTo(past.prices, price) / past.prices.length)
      : NaN;
    const evens = hasGain ? [from, to].filter((price) => price > 0 && price < Infinity) : [];
    columns[PLACE['evens.lower']]![at] = evens[0] ?? NaN;
    columns[PLACE['evens.upper']]![at] = evens.at(-1) ?? NaN;
    const away = evens.map((price) => Math.abs(logOf(price)) / deviation);
    columns[PLACE.evenDeviations]![at] = away.length > 0 ? Math.min(...away) : NaN;
  }

  /** What it is worth by past moves to the near expiry, with one standard error; null where too few are held. */
  private pastWorth(
    near: SolvedExpiry,
    there: FarThere,
    nearId: number,
    entry: number,
    maxLoss: number,
  ): { worth: number; error: number } | null {
    const { contracts } = this.solved;
    const { pastPrices } = this.pointsOf(contracts.expiry[nearId]!);
    if (!near.past || !pastPrices || !there.pastValues) return null;
    const { fit, moved } = near;
    const [sign, strike] = [contracts.sign[nearId]!, contracts.strike[nearId]!];
    const count = pastPrices.length;
    let [first, second] = [0, 0];
    for (let i = 0; i < count; i++) {
      const payoff = sign * (pastPrices[i]! - strike);
      const profit = there.pastValues[i]! - (payoff > 0 ? payoff : 0) - entry;
      first += profit;
      second += profit * profit;
    }
    const mean = first / count;
    const root = contracts.vol[nearId]! * Math.sqrt(fit.years);
    const european = fit.discount * lognormalUndiscounted(sign, fit.forward, strike, root);
    // The near leg is sold: what exercising it early is worth goes to whoever holds it.
    const early = moved.isAmerican ? contracts.theory[nearId]! - european : 0;
    return {
      worth: fit.discount * (mean + entry) - early,
      error: fit.discount * errorOfPast(mean, second / count, near.past.independent, maxLoss),
    };
  }

  private worstCell(nearId: number, farId: number, place: number, entry: number): number {
    solveStress(this.solved, place);
    const near = this.solved.stress;
    const from = nearId * STRESS_CELLS;
    const far = this.farAt(farId, place).stress!;
    let least = Infinity;
    for (let cell = 0; cell < STRESS_CELLS; cell++) least = Math.min(least, far[cell]! - near[from + cell]! - entry);
    return least < 0 ? -least : 0;
  }
}

/** Prices at the ends of the past, or as many quantiles of them. */
function quantilesOf(sorted: Float64Array): Float64Array {
  if (sorted.length <= MOST_ENDS) return sorted;
  return Float64Array.from(
    { length: MOST_ENDS },
    (_, i) => sorted[Math.floor(((i + 0.5) / MOST_ENDS) * sorted.length)]!,
  );
}

/** A value between points that are even in the logarithm of the price, by the cubic through the four nearest; solved beyond. */
function between(
  prices: Float64Array,
  values: Float64Array,
  price: number,
  valueAt: (price: number) => number,
): number {
  const step = Math.log(prices[1]! / prices[0]!);
  const place = Math.log(price / prices[0]!) / step;
  const from = Math.floor(place) - 1;
  if (from < 0 || from + 3 >= values.length) return valueAt(price);
  const x = place - from;
  const [a, b, c, d] = [values[from]!, values[from + 1]!, values[from + 2]!, values[from + 3]!];
  return (
    (-a * (x - 1) * (x - 2) * (x - 3)) / 6 +
    (b * x * (x - 2) * (x - 3)) / 2 -
    (c * x * (x - 1) * (x - 3)) / 2 +
    (d * x * (x - 1) * (x - 2)) / 6
  );
}
