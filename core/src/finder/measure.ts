import { Adder } from './adder';
import { countUpTo } from '../distributions';
import { errorOfPast, STRESS_CELLS, type SolvedExpiry, type SolvedMarket } from './solved';
import { heldInStress, solveStress } from './stress';
import { columnOf, MOST_LEGS, type CandidateTable } from './table';
import { touchOf } from './touch';

/** What rounding leaves of a width. */
const ROUNDING = 1e-12;

/** Columns that are written, each found once: by their names it would take as long as all else. */
const togetherInto = (table: CandidateTable) => ({
  width: columnOf(table, 'width'),
  maxProfit: columnOf(table, 'maxProfit'),
  maxLoss: columnOf(table, 'maxLoss'),
  capital: columnOf(table, 'capital'),
  rewardToRisk: columnOf(table, 'rewardToRisk'),
  returnOnRisk: columnOf(table, 'returnOnRisk'),
  annualized: columnOf(table, 'annualized'),
  stress: columnOf(table, 'stress'),
  touch: columnOf(table, 'touch'),
  probabilityOfProfit: columnOf(table, 'probabilityOfProfit'),
  oddsOwnVol: columnOf(table, 'odds.ownVol'),
  oddsPast: columnOf(table, 'odds.past'),
  evensLower: columnOf(table, 'evens.lower'),
  evensUpper: columnOf(table, 'evens.upper'),
  evenDeviations: columnOf(table, 'evenDeviations'),
});

/** Measures of candidates that end together: their profit is linear between strikes. */
export class TogetherMeasures {
  private readonly adder: Adder;
  private readonly into: ReturnType<typeof togetherInto>;
  private readonly knots = new Float64Array(MOST_LEGS + 1);
  private readonly profits = new Float64Array(MOST_LEGS + 1);
  private readonly slopes = new Float64Array(MOST_LEGS + 1);
  private readonly cuts = new Int32Array(MOST_LEGS + 1);
  /** Where the last candidate begins and ends to gain, one after the other, from 0 on. */
  private readonly turns = new Float64Array(2 * MOST_LEGS + 2);
  private readonly heldStress = new Map<SolvedExpiry, Float64Array>();

  constructor(
    private readonly solved: SolvedMarket,
    private readonly table: CandidateTable,
  ) {
    this.adder = new Adder(solved, table);
    this.into = togetherInto(table);
  }

  measure(at: number): void {
    const { contracts, expiries } = this.solved;
    const { into } = this;
    const { legs, quantities, held } = this.table;
    const { knots, profits, slopes, cuts } = this;
    const place = this.table.expiry[at]!;
    const expiry = expiries[place]!;
    const entry = this.adder.add(at);
    const h = held[at]!;
    // From a price of nothing on: puts pay their strikes there, and each strike bends the line by its quantity.
    let value = -entry;
    let slope = h;
    let count = 0;
    for (; count < MOST_LEGS; count++) {
      const id = legs[MOST_LEGS * at + count]!;
      if (id < 0) break;
      if (contracts.sign[id]! > 0) continue;
      const q = quantities[MOST_LEGS * at + count]!;
      value += q * contracts.strike[id]!;
      slope -= q;
    }
    knots[0] = 0;
    profits[0] = value;
    slopes[0] = slope;
    cuts[0] = 0;
    let most = value;
    let least = value;
    let wide = NaN;
    let near = 0;
    for (let leg = 0; leg < count; leg++) {
      const id = legs[MOST_LEGS * at + leg]!;
      const strike = contracts.strike[id]!;
      value += slope * (strike - knots[leg]!);
      slope += quantities[MOST_LEGS * at + leg]!;
      knots[leg + 1] = strike;
      profits[leg + 1] = value;
      slopes[leg + 1] = slope;
      cuts[leg + 1] = contracts.cut[id]!;
      if (value > most) most = value;
      if (value < least) least = value;
      // The inner distance of four legs is none of a wing.
      if (leg > 0 && !(count === 4 && leg === 2)) {
        const distance = strike - near;
        if (!(wide >= distance)) wide = distance;
      }
      near = strike;
    }
    const scale = ROUNDING * (Math.abs(entry) + knots[count]!);
    for (let i = 0; i <= count; i++) if (Math.abs(profits[i]!) <= scale) profits[i] = 0;
    const maxProfit = slope > 0 ? Infinity : most;
    const maxLoss = slope < 0 ? Infinity : least < 0 ? -least : 0;
    const worst = slope < 0 || this.solved.asked.hasStress ? this.worstCell(at, place, entry) : NaN;
    const capital = slope < 0 ? worst : maxLoss;
    const gains = this.turnsOf(count);
    into.width[at] = wide;
    into.maxProfit[at] = maxProfit;
    into.maxLoss[at] = maxLoss;
    into.capital[at] = capital;
    into.rewardToRisk[at] = maxProfit / maxLoss;
    into.returnOnRisk[at] = maxProfit / capital;
    into.annualized[at] = maxProfit / capital / expiry.fit.years;
    into.stress[at] = worst;
    this.tellEvens(at, expiry, gains);
    into.touch[at] = touchOf(this.solved, this.table, at, expiry);
    this.adder.edges(at, entry, capital, this.pastError(expiry, count, capital));
  }

  private worstCell(at: number, place: number, entry: number): number {
    const { solved, table } = this;
    solveStress(solved, place);
    const { stress, spot, expiries } = solved;
    const h = table.held[at]!;
    let held: Float64Array | null = null;
    if (h !== 0) {
      const expiry = expiries[place]!;
      held = this.heldStress.get(expiry) ?? heldInStress(spot, expiry.deviation);
      this.heldStress.set(expiry, held);
    }
    let least = Infinity;
    for (let cell = 0; cell < STRESS_CELLS; cell++) {
      let sum = -entry;
      for (let leg = 0; leg < MOST_LEGS; leg++) {
        const id = table.legs[MOST_LEGS * at + leg]!;
        if (id < 0) break;
        sum += table.quantities[MOST_LEGS * at + leg]! * stress[id * STRESS_CELLS + cell]!;
      }
      if (held) sum += h * held[cell]!;
      if (sum < least) least = sum;
    }
    return least < 0 ? -least : 0;
  }

  /** Finds where it begins and ends to gain. @returns how many such prices there are; the first begins a gain */
  private turnsOf(count: number): number {
    const { knots, profits, slopes, turns } = this;
    let found = 0;
    // Gains at a price of nothing begin there.
    let isGain = profits[0]! > 0 || (profits[0] === 0 && slopes[0]! > 0);
    if (isGain) turns[found++] = 0;
    for (let i = 0; i <= count; i++) {
      const from = knots[i]!;
      const value = profits[i]!;
      const slope = slopes[i]!;
      const next = i < count ? profits[i + 1]! : slope > 0 ? Infinity : slope < 0 ? -Infinity : value;
      // Inside of the piece: whether it gains just after its beginning, and before its end.
      const begins = value > 0 || (value === 0 && next > 0);
      if (begins !== isGain) {
        turns[found++] = from;
        isGain = begins;
      }
      if (value * next < 0) {
        turns[found++] = from - value / slope;
        isGain = next > 0;
      }
    }
    return found;
  }

  /** Odds of a profit by each law, and how far the nearest break-even is. */
  private tellEvens(at: number, expiry: SolvedExpiry, found: number): void {
    const { turns, into } = this;
    const { fit, law, own, past, deviation } = expiry;
    let curve = 0;
    let ownOdds = 0;
    let before = 0;
    let nearest = Infinity;
    let lower = NaN;
    let upper = NaN;
    for (let i = 0; i < found; i++) {
      const price = turns[i]!;
      const sign = i % 2 === 0 ? -1 : 1;
      if (!(price > 0)) continue;
      const k = Math.log(price / fit.forward);
      curve += sign * law.under(k);
      if (own) ownOdds += sign * own.under(k);
      if (past) before += sign * countUpTo(past.prices, price);
      const away = Math.abs(k) / deviation;
      if (away < nearest) nearest = away;
      if (!(lower <= price)) lower = price;
      upper = price;
    }
    // What is not ended goes on for ever.
    const rest = found % 2;
    into.probabilityOfProfit[at] = curve + rest;
    into.oddsOwnVol[at] = own ? ownOdds + rest : NaN;
    into.oddsPast[at] = past ? before / past.prices.length + rest : NaN;
    into.evensLower[at] = lower;
    into.evensUpper[at] = upper;
    into.evenDeviations[at] = nearest === Infinity ? NaN : nearest;
  }

  private pastError({ past, fit }: SolvedExpiry, count: number, capital: number): number {
    if (!past) return NaN;
    const { knots, profits, slopes, cuts } = this;
    const { sums, squares, prices, independent } = past;
    const total = prices.length;
    let first = 0;
    let second = 0;
    for (let i = 0; i <= count; i++) {
      const from = cuts[i]!;
      const to = i < count ? cuts[i + 1]! : total;
      const b = slopes[i]!;
      const a = profits[i]! - b * knots[i]!;
      const sum = sums[to]! - sums[from]!;
      first += a * (to - from) + b * sum;
      second += a * a * (to - from) + 2 * a * b * sum + b * b * (squares[to]! - squares[from]!);
    }
    return fit.discount * errorOfPast(first / total, second / total, independent, capital);
  }
}
