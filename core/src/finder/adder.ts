import type { SolvedMarket } from './solved';
import { columnOf, MOST_LEGS, PLACE, type CandidateTable } from './table';

/** Legs that a vega is told of together: a net one under this share of them all has no vol points of its own (common practice). */
const LEAST_NET = 0.1;
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
  /** Worth by one's own vol, as it is asked for. */
  private readonly own: Float64Array;
  /** Whether an expiry borrows its curve: else no candidate has an edge to peers. */
  private readonly isLending: boolean;
  /** By expiry: its years, its quality, and how many announcements come before it. */
  private readonly years: Float64Array;
  private readonly quality: Float64Array;
  private readonly announced: Float64Array;

  constructor(
    private readonly solved: SolvedMarket,
    private readonly table: CandidateTable,
  ) {
    this.into = addedInto(table);
    const { asked, contracts, expiries, market } = solved;
    const { fill } = asked;
    this.own = asked.isOwnFlat ? contracts.ownFlat : contracts.ownSkewed;
    this.isLending = expiries.some(({ fit }) => fit.borrowed);
    if (!this.isLending) for (let part = 0; part < 4; part++) table.columns[PLACES.peers + part]!.fill(NaN);
    this.years = Float64Array.from(expiries, ({ fit }) => fit.years);
    this.quality = Float64Array.from(expiries, ({ fit }) => fit.quality);
    this.announced = this.years.map((until) => market.announced.filter((years) => years > 0 && years <= until).length);
    this.share = typeof fill === 'object' ? fill.slippage : { worst: 1, mid: 0, best: -1 }[fill];
  }

  /** Sums over the legs of a candidate, all but what depends on the capital at risk. @returns what it is entered at */
  add(at: number): number {
    const { contracts, spot, asked, expiries } = this.solved;
    const { into, years } = this;
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
    let last = this.table.expiry[at]!;
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
      vega += one;
      skew += q * contracts.skew[id]!;
      curvature += q * contracts.curvature[id]!;
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
      const expiry = contracts.expiry[id]!;
      const told = this.quality[expiry]!;
      if (!(told >= quality)) quality = told;
      if (years[expiry]! > years[last]!) last = expiry;
    }
    const fees = asked.fee * sizes;
    const entry = mid + this.share * half + fees;
    const first = expiries[this.table.expiry[at]!]!.fit;
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
    into.announcements[at] = this.announced[last]!;
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
    const { contracts, spot, expiries } = this.solved;
    const { into, own: byOwn, isLending } = this;
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
      own += q * byOwn[id]!;
      past += q * contracts.past[id]!;
      error += q * contracts.unsure[id]!;
      if (!isLending) continue;
      peers += q * contracts.theory[id]!;
      if (expiries[contracts.expiry[id]!]!.fit.borrowed) isLent = true;
    }
    const vega = into.greeksVega[at]!;
    const points = Math.abs(vega) >= LEAST_NET * this.gross ? Math.abs(vega) : NaN;
    this.edge(PLACES.curve, at, isLent ? NaN : curve - entry, capital, points, Math.abs(error));
    this.edge(PLACES.past, at, (pastWorth ?? past) - entry, capital, points, pastError);
    this.edge(PLACES.ownVol, at, own - entry, capital, points, NaN);
    if (isLending) this.edge(PLACES.peers, at, isLent ? peers - entry : NaN, capital, points, NaN);
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
