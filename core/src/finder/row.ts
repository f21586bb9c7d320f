import type { ExpiryId, Side } from '../contracts';
import { lognormalUndiscounted } from '../models';
import type { Found, FoundExpiry } from './found';
import type { FinderKind } from './kinds';
import type { FinderMeasure } from './measures';
import type { SolvedContracts } from './solved';
import { columnOf, kindAt, measuresAt, MOST_LEGS, type CandidateTable } from './table';

/** A leg of a candidate: an option, or the underlying in contracts' worth. */
export type CandidateLeg =
  | (ExpiryId & { readonly strike: number; readonly side: Side; readonly quantity: number })
  | { readonly underlying: true; readonly quantity: number };

/** Whether a leg is an option; else it is the underlying. */
export const isOptionLeg = <Leg extends CandidateLeg>(leg: Leg): leg is Extract<Leg, { strike: number }> =>
  !('underlying' in leg);

/** What names contracts by their id. */
export interface Named {
  readonly expiries: readonly ExpiryId[];
  readonly contracts: Pick<SolvedContracts, 'expiry' | 'sign' | 'strike'>;
}

/** A leg of a row with what is known of its contract. */
export type FoundLeg = CandidateLeg & {
  readonly mid: number;
  readonly vol: number;
  readonly openInterest: number;
  readonly volume: number;
};

/** A row: what, how it is drawn, and why it stands where it does. */
export interface FoundRow {
  readonly symbol: string;
  readonly multiplier: number;
  readonly price: number;
  readonly kind: FinderKind;
  readonly legs: readonly FoundLeg[];
  readonly measures: Readonly<Record<FinderMeasure, number>>;
  readonly score: number;
  /** What each weight adds to the score. */
  readonly shares: readonly number[];
  readonly sketch: RowSketch;
  /** What it gained by its expiry; NaN where that is not known. */
  readonly became: number;
  readonly settled: number;
  readonly ownVol: number;
  /** Past moves of that length that do not overlap. */
  readonly independent: number;
}

/** Profit at the first expiry along the price. */
export interface RowSketch {
  readonly prices: readonly number[];
  readonly profits: readonly number[];
  readonly forward: number;
  readonly dots: readonly { readonly price: number; readonly profit: number }[];
}

/** What legs of a candidate are. */
export function legsOf({ expiries, contracts }: Named, table: CandidateTable, at: number): CandidateLeg[] {
  const legs: CandidateLeg[] = [];
  for (let leg = 0; leg < MOST_LEGS; leg++) {
    const id = table.legs[MOST_LEGS * at + leg]!;
    if (id < 0) break;
    const { expiry, settlement } = expiries[contracts.expiry[id]!]!;
    legs.push({
      ...{ expiry, settlement, strike: contracts.strike[id]! },
      side: contracts.sign[id]! > 0 ? 'call' : 'put',
      quantity: table.quantities[MOST_LEGS * at + leg]!,
    });
  }
  if (table.held[at] !== 0) legs.push({ underlying: true, quantity: table.held[at]! });
  return legs;
}

/** A candidate as it is told, with the score that it was given. */
export function rowOf(found: Found, at: number, scored: Pick<FoundRow, 'score' | 'shares'>): FoundRow {
  const { table, contracts, expiries } = found;
  const legs = legsOf(found, table, at).map((leg, i): FoundLeg => {
    const id = table.legs[MOST_LEGS * at + i]!;
    if (!isOptionLeg(leg)) return { ...leg, mid: found.price, vol: NaN, openInterest: NaN, volume: NaN };
    const { mid, vol, openInterest, volume } = contracts;
    return { ...leg, mid: mid[id]!, vol: vol[id]!, openInterest: openInterest[id]!, volume: volume[id]! };
  });
  const first = expiries[table.expiry[at]!]!;
  const profitAt = profitOf(found, at);
  const isTogether = legs.every(
    (leg, i) => !isOptionLeg(leg) || contracts.expiry[table.legs[MOST_LEGS * at + i]!] === table.expiry[at],
  );
  return {
    ...{ symbol: found.symbol, multiplier: found.multiplier, price: found.price, kind: kindAt(table, at), legs },
    ...{ measures: measuresAt(table, at), ...scored },
    sketch: sketchOf(first, legs, profitAt),
    ...{ became: isTogether ? profitAt(first.settled) : NaN, settled: first.settled },
    ...{ ownVol: first.ownVol, independent: first.independent },
  };
}

/**
 * What a candidate gains at its first expiry, by the price there: exactly where its legs end together; a leg that goes on is told
 * as one that is held, at the vol of its strike.
 */
export function profitOf({ table, contracts, expiries }: Found, at: number): (price: number) => number {
  const place = table.expiry[at]!;
  const first = expiries[place]!;
  const cost = columnOf(table, 'cost')[at]!;
  return (price) => {
    let sum = table.held[at]! * price - cost;
    for (let leg = 0; leg < MOST_LEGS; leg++) {
      const id = table.legs[MOST_LEGS * at + leg]!;
      if (id < 0) break;
      const [sign, strike] = [contracts.sign[id]!, contracts.strike[id]!];
      const own = expiries[contracts.expiry[id]!]!;
      const left = own.years - first.years;
      const inner = Math.max(0, sign * (price - strike));
      const forward = (price * own.forward) / first.forward;
      const value =
        contracts.expiry[id] === place
          ? inner
          : (own.discount / first.discount) *
            lognormalUndiscounted(sign, forward, strike, contracts.vol[id]! * Math.sqrt(left));
      sum += table.quantities[MOST_LEGS * at + leg]! * value;
    }
    return sum;
  };
}

const REACH = 2.5;
const POINTS = 25;

/** Draws a profit over two and a half deviations, and further where strikes lie outside. */
function sketchOf(
  { forward, deviation, dots }: FoundExpiry,
  legs: readonly FoundLeg[],
  profitAt: (price: number) => number,
): RowSketch {
  const strikes = legs.filter(isOptionLeg).map(({ strike }) => strike);
  const low = Math.min(forward * Math.exp(-REACH * deviation), ...strikes.map((strike) => 0.98 * strike));
  const high = Math.max(forward * Math.exp(REACH * deviation), ...strikes.map((strike) => 1.02 * strike));
  const even = Array.from({ length: POINTS }, (_, i) => low + ((high - low) * i) / (POINTS - 1));
  const prices = [...new Set([...even, ...strikes])].sort((a, b) => a - b);
  return {
    ...{ prices, profits: prices.map(profitAt), forward },
    dots: dots.map((price) => ({ price, profit: profitAt(price) })),
  };
}
