import { exitProbability, touchProbability } from '../models';
import { STRESS_CELLS, countUnder, curvatureOf, heldInStress, skewOf, solveStress } from './solved';
import type { SolvedMarket, SolvedExpiry } from './solved';
import { columnOf, MOST_LEGS, PLACE, type CandidateTable } from './table';

/** Legs that a vega is told of together: a net one under this share of them all has no vol points of its own (common practice). */
const LEAST_NET = 0.1;
/** What rounding leaves of a width. */
const ROUNDING = 1e-12;

/** Where the four columns of each edge begin. */
const PLACES = {
  curve: PLACE['edges.curve.money'],
  past: PLACE['edges.past.money'],
  ownVol: PLACE['edges.ownVol.money'],
  peers: PLACE['edges.peers.money'],
};

/** Columns that are written, each found once: by their names it would take as long as all else. */
const addedInto = (table: CandidateTable) => ({
  days: columnOf(table, 'days'),
  cost: columnOf(table, 'cost'),
  worst: columnOf(table, 'worst'),
  mid: columnOf(table, 'mid'),
  best: columnOf(table, 'best'),
  shortDelta: columnOf(table, 'shortDelta'),
  greeksDelta: columnOf(table, 'greeks.delta'),
  greeksGamma: columnOf(table, 'greeks.gamma'),
  greeksTheta: columnOf(table, 'greeks.theta'),
  greeksVega: columnOf(table, 'greeks.vega'),
  thetaPerVega: columnOf(table, 'thetaPerVega'),
  costPerDelta: columnOf(table, 'costPerDelta'),
  volSpread: columnOf(table, 'volSpread'),
  skew: columnOf(table, 'skew'),
  curvature: columnOf(table, 'curvature'),
  spread: columnOf(table, 'spread'),
  spreadShare: columnOf(table, 'spreadShare'),
  weakestOpenInterest: columnOf(table, 'weakest.openInterest'),
  weakestVolume: columnOf(table, 'weakest.volume'),
  weakestQuality: columnOf(table, 'weakest.quality'),
  announcements: columnOf(table, 'announcements'),
});

/** Measures that add up over the legs, of any candidate. */
export class Adder {
  /** Share of the half spread that is paid over the middle. */
  private readonly share: number;
  private readonly into: ReturnType<typeof addedInto>;

  constructor(
    private readonly solved: SolvedMarket,
    private readonly table: CandidateTable,
  ) {
    this.into = addedInto(table);
    const { fill } = solved.asked;
    this.share = typeof fill === 'object' ? fill.slippage : { worst: 1, mid: 0, best: -1 }[fill];
  }

  /** Sums over the legs of a candidate, all but what depends on the capital at risk. @returns what it is entered at */
  add(at: number): number {
    const { contracts, spot, asked, expiries, market } = this.solved;
    const { into } = this;
    const { legs, quantities, held } = this.table;
    const h = held[at]!;
    let mid = h * spot;
    let half = 0;
    let sizes = 0;
    let delta = h;
    let gamma = 0;
    let theta = 0;
    let vega = 0;
    let skew = 0;
    let curvature = 0;
    let gross = 0;
    let soldVega = 0;
    let soldVol = 0;
    let boughtVega = 0;
    let boughtVol = 0;
    let shortDelta = -1;
    let anyDelta = 0;
    let interest = Infinity;
    let volume = Infinity;
    let quality = Infinity;
    let last = 0;
    for (let leg = 0; leg < MOST_LEGS; leg++) {
      const id = legs[MOST_LEGS * at + leg]!;
      if (id < 0) break;
      const q = quantities[MOST_LEGS * at + leg]!;
      const size = q < 0 ? -q : q;
      mid += q * contracts.mid[id]!;
      half += size * contracts.half[id]!;
      sizes += size;
      delta += q * contracts.delta[id]!;
      gamma += q * contracts.gamma[id]!;
      theta += q * contracts.theta[id]!;
      const one = q * contracts.vega[id]!;
      const deviations = contracts.deviations[id]!;
      vega += one;
      skew += skewOf(one, deviations);
      curvature += curvatureOf(one, deviations);
      const weight = one < 0 ? -one : one;
      gross += weight;
      const forwardDelta = contracts.forwardDelta[id]!;
      if (forwardDelta > anyDelta) anyDelta = forwardDelta;
      if (q < 0) {
        soldVega += weight;
        soldVol += weight * contracts.vol[id]!;
        if (forwardDelta > shortDelta) shortDelta = forwardDelta;
      } else {
        boughtVega += weight;
        boughtVol += weight * contracts.vol[id]!;
      }
      const open = contracts.openInterest[id]!;
      const traded = contracts.volume[id]!;
      // What is not known is not over anything.
      if (!(open >= interest)) interest = open;
      if (!(traded >= volume)) volume = traded;
      const { fit } = expiries[contracts.expiry[id]!]!;
      if (!(fit.quality >= quality)) quality = fit.quality;
      if (fit.years > last) last = fit.years;
    }
    const fees = asked.fee * sizes;
    const entry = mid + this.share * half + fees;
    const first = expiries[this.table.expiry[at]!]!.fit;
    let announcements = 0;
    for (const years of market.announced) if (years > 0 && years <= last) announcements++;
    into.days[at] = first.days;
    into.cost[at] = entry;
    into.worst[at] = mid + half + fees;
    into.mid[at] = mid + fees;
    into.best[at] = mid - half + fees;
    into.shortDelta[at] = shortDelta < 0 ? anyDelta : shortDelta;
    into.greeksDelta[at] = delta;
    into.greeksGamma[at] = gamma;
    into.greeksTheta[at] = theta;
    into.greeksVega[at] = vega;
    into.thetaPerVega[at] = theta / Math.abs(vega);
    into.costPerDelta[at] = entry / delta;
    into.volSpread[at] = soldVol / soldVega - boughtVol / boughtVega;
    into.skew[at] = skew;
    into.curvature[at] = curvature;
    into.spread[at] = 2 * half;
    into.spreadShare[at] = (2 * half) / Math.abs(mid);
    into.weakestOpenInterest[at] = interest;
    into.weakestVolume[at] = volume;
    into.weakestQuality[at] = quality;
    into.announcements[at] = announcements;
    this.gross = gross;
    return entry;
  }

  private gross = 0;

  /**
   * Edges of a candidate after its sums, and what is over its capital at risk.
   *
   * @param pastError one standard error of what it is worth by the past
   * @param pastWorth where its legs do not end together; else the sum of theirs
   */
  edges(at: number, entry: number, capital: number, pastError: number, pastWorth?: number): void {
    const { contracts, spot, asked, expiries } = this.solved;
    const { into } = this;
    const { legs, quantities, held } = this.table;
    const h = held[at]!;
    const first = expiries[this.table.expiry[at]!]!;
    let curve = h * spot;
    let own = h * spot;
    let past = h * first.heldPast;
    let peers = h * spot;
    let error = 0;
    let isLent = false;
    for (let leg = 0; leg < MOST_LEGS; leg++) {
      const id = legs[MOST_LEGS * at + leg]!;
      if (id < 0) break;
      const q = quantities[MOST_LEGS * at + leg]!;
      curve += q * contracts.without[id]!;
      own += q * (asked.isOwnFlat ? contracts.ownFlat[id]! : contracts.ownSkewed[id]!);
      past += q * contracts.past[id]!;
      peers += q * contracts.theory[id]!;
      const { fit } = expiries[contracts.expiry[id]!]!;
      if (fit.borrowed) isLent = true;
      error += q * contracts.vega[id]! * 100 * fit.atmVolUncertainty;
    }
    const vega = into.greeksVega[at]!;
    const points = Math.abs(vega) >= LEAST_NET * this.gross ? Math.abs(vega) : NaN;
    this.edge(PLACES.curve, at, isLent ? NaN : curve - entry, capital, points, Math.abs(error));
    this.edge(PLACES.past, at, (pastWorth ?? past) - entry, capital, points, pastError);
    this.edge(PLACES.ownVol, at, own - entry, capital, points, NaN);
    this.edge(PLACES.peers, at, isLent ? peers - entry : NaN, capital, points, NaN);
  }

  /** The four columns of an edge stand side by side. */
  private edge(place: number, at: number, money: number, capital: number, points: number, error: number): void {
    const { columns } = this.table;
    columns[place]![at] = money;
    columns[place + 1]![at] = money / capital;
    columns[place + 2]![at] = money / points;
    columns[place + 3]![at] = Number.isNaN(money) ? NaN : error;
  }
}

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
    this.adder.edges(at, entry, capital, this.pastError(expiry, count));
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
      if (past) before += sign * countUnder(past.prices, price);
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

  /** One standard error of the mean of its profits at past ends: their deviation over the root of how many are independent. */
  private pastError({ past, fit }: SolvedExpiry, count: number): number {
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
    const mean = first / total;
    return (fit.discount * Math.sqrt(Math.max(0, second / total - mean * mean))) / Math.sqrt(independent);
  }
}

/**
 * Odds that a sold strike is met on the way: of those on one side of the price the nearest, of two sides as the odds of legs have
 * it (`structureOdds`). Nothing where none is sold.
 */
export function touchOf(
  solved: SolvedMarket,
  { legs, quantities }: CandidateTable,
  at: number,
  expiry: SolvedExpiry,
): number {
  const { contracts, spot, expiries } = solved;
  let below = -1;
  let above = -1;
  for (let leg = 0; leg < MOST_LEGS; leg++) {
    const id = legs[MOST_LEGS * at + leg]!;
    if (id < 0) break;
    if (quantities[MOST_LEGS * at + leg]! > 0 || expiries[contracts.expiry[id]!] !== expiry) continue;
    const strike = contracts.strike[id]!;
    if (strike <= spot && (below < 0 || strike > contracts.strike[below]!)) below = id;
    if (strike >= spot && (above < 0 || strike < contracts.strike[above]!)) above = id;
  }
  if (below < 0 && above < 0) return 0;
  if (below < 0) return contracts.touch[above]!;
  if (above < 0) return contracts.touch[below]!;
  const key = below * contracts.count + above;
  const known = expiry.touched.get(key);
  if (known !== undefined) return known;
  const { fit } = expiry;
  const [lower, upper] = [contracts.strike[below]!, contracts.strike[above]!];
  const mean = 0.5 * (contracts.vol[below]! + contracts.vol[above]!);
  const drift = Math.log(fit.forward / spot) / fit.years;
  const reach = (level: number) => touchProbability(spot, level, fit.years, drift, mean);
  const both = reach(lower) + reach(upper) - exitProbability(spot, [lower, upper], fit.years, drift, mean);
  const [down, up] = [contracts.touch[below]!, contracts.touch[above]!];
  const told = Math.min(1, Math.max(down, up, down + up - Math.max(0, both)));
  expiry.touched.set(key, told);
  return told;
}
