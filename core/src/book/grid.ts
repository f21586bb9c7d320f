import { isUnderlying, type ContractId } from '../contracts';
import { LEAST_YEARS, unmoved, type Scenario } from '../structures';
import { contractKey } from './ledger';
import type { MarketAt } from './market';

/** How vols move in the cells: by points for all, by points scaled by √(30/T), or beside that along with the price as they have done. */
export const GRID_SCALES = ['parallel', 'root', 'along'] as const;
export type GridScale = (typeof GRID_SCALES)[number];

/** Moves and shifts of a grid. */
export interface GridAxes {
  /** Of the price, as shares of it. */
  readonly moves: readonly number[];
  /** Of vols, decimals. */
  readonly volShifts: readonly number[];
  readonly volScale: GridScale;
}

/** Something held on an underlying at a moment. */
export interface GridLeg {
  readonly position: number;
  readonly family: string;
  readonly market: MarketAt;
  /** Years from the moment of the market to that of the grid. */
  readonly elapsed: number;
  readonly contract: ContractId;
  readonly quantity: number;
  /** Money of the book for one unit of price of one contract. */
  readonly money: number;
  /** By how much its price moves where that of all moves by one: 1, or a beta. */
  readonly beta: number;
  /** What vols at 30 days have changed by for one of ln S; for `along`. */
  readonly volPerMove: number;
}

/** Profit of a part of the book, a row a shift of vol, a column a move of the price. */
export type Cells = Float64Array[];

export interface GridOf {
  /** By position, in the order in which they come. */
  readonly positions: ReadonlyMap<number, Cells>;
  readonly families: ReadonlyMap<string, Cells>;
  readonly total: Cells;
  /** Legs that no curve tells the worth of. */
  readonly missing: number;
}

/**
 * Profit of positions by moves of the price and shifts of vol, against what they are worth now by their curves: nothing moved now is
 * 0. What has expired by the moment of the grid is worth what it pays at the price there.
 */
export function scenarioGrid(legs: readonly GridLeg[], axes: GridAxes): GridOf {
  const { moves, volShifts } = axes;
  const rows = volShifts.length;
  const made = (): Cells => Array.from({ length: rows }, () => new Float64Array(moves.length));
  const positions = new Map<number, Cells>();
  const families = new Map<string, Cells>();
  const total = made();
  let missing = 0;
  // Contracts that several positions hold are valued once.
  const known = new Map<MarketAt, Map<string, Cells | null>>();
  const scenarios = new Map<string, readonly (readonly Scenario[])[]>();
  const scenariosOf = ({ market, elapsed, beta, volPerMove: slope }: GridLeg) => {
    const key = `${market.market.symbol} ${elapsed} ${beta} ${slope}`;
    const made = scenarios.get(key) ?? cellScenarios(market.market.around.spot, { elapsed, beta, slope }, axes);
    scenarios.set(key, made);
    return made;
  };
  for (const leg of legs) {
    const ofMarket = known.get(leg.market) ?? new Map<string, Cells | null>();
    known.set(leg.market, ofMarket);
    const key = contractKey(leg.contract);
    let unit = ofMarket.get(key);
    if (unit === undefined) ofMarket.set(key, (unit = unitCells(leg, scenariosOf(leg), made())));
    if (!unit) {
      missing++;
      continue;
    }
    const own = positions.get(leg.position) ?? made();
    positions.set(leg.position, own);
    const related = families.get(leg.family) ?? made();
    families.set(leg.family, related);
    const units = leg.quantity * leg.money;
    for (let i = 0; i < rows; i++) {
      for (let j = 0; j < moves.length; j++) {
        const gained = units * unit[i]![j]!;
        own[i]![j]! += gained;
        related[i]![j]! += gained;
        total[i]![j]! += gained;
      }
    }
  }
  return { positions, families, total, missing };
}

/** The scenarios of the cells of an underlying, a row a shift of vol. */
function cellScenarios(
  spot: number,
  { elapsed, beta, slope }: { elapsed: number; beta: number; slope: number },
  { moves, volShifts, volScale }: GridAxes,
): Scenario[][] {
  return volShifts.map((volShift) =>
    moves.map((move) => {
      const price = Math.max(0, spot * (1 + beta * move));
      const along = volScale === 'along' && price > 0 ? slope * Math.log(price / spot) : 0;
      return {
        ...unmoved(price),
        elapsed,
        volShift: volShift + along,
        volScale: volScale === 'parallel' ? 'parallel' : 'root',
      };
    }),
  );
}

/** What one unit of a contract gains in each cell; null where its worth is not known. */
function unitCells(
  { market, contract, elapsed }: GridLeg,
  scenarios: readonly (readonly Scenario[])[],
  out: Cells,
): Cells | null {
  const now = market.value(contract, unmoved(market.market.around.spot));
  if (!Number.isFinite(now)) return null;
  // What pays at its end, and the underlying, know no vol.
  const isFlat = isUnderlying(contract) || (market.expiry(contract)?.fit.years ?? 0) - elapsed <= LEAST_YEARS;
  scenarios.forEach((row, i) =>
    row.forEach((scenario, j) => {
      out[i]![j] = i > 0 && isFlat ? out[0]![j]! : market.value(contract, scenario) - now;
    }),
  );
  return out;
}

/** A cell of a grid, and what is gained in it. */
export interface WorstCell {
  readonly move: number;
  readonly volShift: number;
  readonly pnl: number;
}

/** The worst cell of a grid. */
export function worstOf(cells: Cells, { moves, volShifts }: GridAxes): WorstCell {
  let worst: WorstCell = { move: moves[0]!, volShift: volShifts[0]!, pnl: Infinity };
  cells.forEach((row, i) =>
    row.forEach((pnl, j) => {
      if (pnl < worst.pnl) worst = { move: moves[j]!, volShift: volShifts[i]!, pnl };
    }),
  );
  return worst;
}

/**
 * What the vol at 30 days changed by for one of ln S, by least squares over moves of the past.
 *
 * @param price and `vol`, session by session
 * @returns 0 where too few are known
 */
export function volPerMove(price: Float64Array, vol: Float64Array): number {
  let [squares, products, count] = [0, 0, 0];
  for (let i = 1; i < price.length; i++) {
    const move = Math.log(price[i]! / price[i - 1]!);
    const change = vol[i]! - vol[i - 1]!;
    if (!Number.isFinite(move) || !Number.isFinite(change)) continue;
    squares += move * move;
    products += move * change;
    count++;
  }
  return count >= FEWEST_MOVES && squares > 0 ? products / squares : 0;
}

const FEWEST_MOVES = 20;
