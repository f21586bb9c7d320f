import { STRESS_FACTORS, STRESS_MOVES, unmoved, type MovedExpiry, type Scenario } from '../structures';
import { STRESS_CELLS, type SolvedContracts, type SolvedMarket } from './solved';

/** Fills the stress of an expiry's contracts, by the deviation of the expiry that it ends by; once. */
export function solveStress({ market, expiries, contracts, stress }: SolvedMarket, place: number): void {
  const { moved, first, strikes, deviation } = expiries[place]!;
  const last = first + 2 * strikes.length;
  for (let id = first; id < last; id++) {
    if (contracts.isSolved[id] !== 1) continue;
    if (!Number.isNaN(stress[id * STRESS_CELLS]!)) return;
    stressOf(moved, contracts, id, market.around.spot, deviation, stress, id * STRESS_CELLS);
  }
}

/** Worth of a contract in each cell of the stress. */
export function stressOf(
  moved: MovedExpiry,
  { sign, strike }: SolvedContracts,
  id: number,
  spot: number,
  deviation: number,
  out: Float64Array,
  from: number,
): void {
  let at = from;
  for (const volFactor of STRESS_FACTORS)
    for (const move of STRESS_MOVES) {
      const scenario: Scenario = { ...unmoved(spot * Math.exp(move * deviation)), volFactor };
      out[at++] = moved.value(sign[id]!, strike[id]!, scenario);
    }
}

/** What the underlying is worth in the cells of a stress, by factor and move. */
export function heldInStress(spot: number, deviation: number): Float64Array {
  return Float64Array.from(
    { length: STRESS_CELLS },
    (_, cell) => spot * Math.exp(STRESS_MOVES[cell % STRESS_MOVES.length]! * deviation),
  );
}
