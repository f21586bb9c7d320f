import {
  BASES,
  basisLevel,
  curveSlope,
  curveVol,
  deviationMove,
  expiryTerms,
  oddsDifferences,
  oddsOfLegs,
  payoffOfLegs,
  priceLegs,
  writtenOn,
  type Basis,
  type BasisChoice,
  type Difference,
  type PlacedLeg,
  type PricedStructure,
  type StructureOdds,
} from '@umwelt/core';
import { legValues } from '$lib/structure';
import type { ComparedSide, LoadedSnapshot, PricingTerms } from '$lib/data';

/** A structure under one basis. */
export interface StructureView {
  basis: Basis;
  /** The vol of the whole expiry on it: that at the forward, where each contract has its own. */
  vol: number;
  priced: PricedStructure;
  /** Mid less value. */
  edge: number;
  /** NaN over several expiries. */
  odds: StructureOdds;
  /** One deviation on the vol. */
  move: number;
}

/**
 * A structure under every basis.
 *
 * @param sides what the worker says of the side of each leg, in their order
 * @param choiceOf what an expiry is valued by
 */
export function structureViews(
  snapshot: LoadedSnapshot,
  legs: readonly PlacedLeg[],
  sides: readonly ComparedSide[],
  choiceOf: (basis: Basis, slice: number) => BasisChoice,
): StructureView[] {
  const payoff = payoffOfLegs(snapshot, legs);
  const at = legs[0]!.slice;
  const { fit } = snapshot.slices[at]!;
  return BASES.map((basis) => {
    const priced = priceLegs(snapshot, legs, (leg, i) => legValues(sides[i]![basis], leg.index));
    const choice = choiceOf(basis, at);
    const vol = basisLevel(choice, fit);
    return {
      ...{ basis, vol, priced, edge: priced.mid - priced.value },
      odds: oddsOfLegs(snapshot, legs, payoff, { on: writtenOn(snapshot, snapshot), choice }),
      move: deviationMove(fit.forward, vol, fit.years),
    };
  });
}

/** What each assumption does to the odds that a structure gains: the sum over the ends of where it does. */
export function structureDifferences(
  snapshot: LoadedSnapshot,
  legs: readonly PlacedLeg[],
  { indexVol, realizedVols }: Pick<PricingTerms, 'indexVol' | 'realizedVols'>,
): Difference[] {
  const payoff = payoffOfLegs(snapshot, legs);
  const at = legs[0]?.slice ?? -1;
  const fit = snapshot.slices[at]?.fit;
  if (!payoff || !fit?.curve) return [];
  const { curve, forward, years, atmVol } = fit;
  const { spot } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  const ends = payoff.gains.flatMap(({ from, to }) => [
    { level: from, way: -1 },
    { level: to, way: 1 },
  ]);
  const sums = new Map<Difference['cause'], Difference>();
  const constant = payoff.gains.reduce((sum, { to }) => sum + (to === Infinity ? 1 : 0), 0);
  for (const { level, way } of ends) {
    if (!(level > 0) || level === Infinity) continue;
    const k = Math.log(level / forward);
    // Odds of ending under the level, which count for what lies up to it and against what lies from it.
    const found = oddsDifferences({
      ...{ sign: -1, level, spot, forward, years, atmVol, indexVol, realizedVol: realizedVols[at] ?? NaN },
      ...{ curveVol: curveVol(curve, k), curveSlope: curveSlope(curve, k), ownVol: NaN },
    });
    for (const one of found) {
      const sum = sums.get(one.cause) ?? { cause: one.cause, without: constant, with: constant, by: 0 };
      sums.set(one.cause, {
        ...{ cause: one.cause, without: sum.without + way * one.without, with: sum.with + way * one.with },
        by: sum.by + way * one.by,
      });
    }
  }
  return [...sums.values()].sort((a, b) => Math.abs(b.by) - Math.abs(a.by));
}
