import { STRESS_FACTORS, STRESS_MOVES, unmoved, type MovedExpiry, type Scenario } from '../structures';
import { STRESS_CELLS, type SolvedContracts, type SolvedMarket } from './solved';

/** Fills the stress of an expiry's contracts, by the deviation of the expiry that it ends by; once. */
export function solveStress({ market, expiries, contracts, stress }: SolvedMarket, place: number): void {
  const { moved, first, strikes, deviation } = expiries[place]!;
  const cells = stressCells(market.around.spot, deviation);
  const last = first + 2 * strikes.length;
  for (let id = first; id < last; id++) {
    if (contracts.isSolved[id] !== 1) continue;
    if (!Number.isNaN(stress[id * STRESS_CELLS]!)) return;
    stressOf(moved, contracts, id, cells, stress, id * STRESS_CELLS);
  }
}

/** Scenarios of the cells of a stress, by factor and move. */
export function stressCells(spot: number, deviation: number): Scenario[] {
  return STRESS_FACTORS.flatMap((volFactor) =>
    STRESS_MOVES.map((move): Scenario => ({ ...unmoved(spot * Math.exp(move * deviation)), volFactor })),
  );
}

/** Worth of a contract in each cell of the stress. */
export function stressOf(
  moved: MovedExpiry,
  { sign, strike }: SolvedContracts,
  id: number,
  cells: readonly Scenario[],
  out: Float64Array,
  from: number,
): void {
  for (let cell = 0; cell < cells.length; cell++) out[from + cell] = moved.value(sign[id]!, strike[id]!, cells[cell]!);
}

/** What the underlying is worth in the cells of a stress, by factor and move. */
export function heldInStress(spot: number, deviation: number): Float64Array {
  return Float64Array.from(
    { length: STRESS_CELLS },
    (_, cell) => spot * Math.exp(STRESS_MOVES[cell % STRESS_MOVES.length]! * deviation),
  );
}
