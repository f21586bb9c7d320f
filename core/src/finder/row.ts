import type { ExpiryId, Side } from '../contracts';
import { unmoved } from '../structures';
import type { FinderKind } from './kinds';
import type { SolvedContracts, SolvedMarket } from './solved';
import { MEASURE_KEYS, type FinderMeasure } from './measures';
import { columnOf, kindAt, MOST_LEGS, type CandidateTable } from './table';

/** A leg of a candidate: an option, or the underlying in contracts' worth. */
export type CandidateLeg =
  | (ExpiryId & { readonly strike: number; readonly side: Side; readonly quantity: number })
  | { readonly underlying: true; readonly quantity: number };

/** A candidate as it is told. */
export interface CandidateRow {
  readonly kind: FinderKind;
  readonly legs: readonly CandidateLeg[];
  readonly measures: Readonly<Record<FinderMeasure, number>>;
  /** Where its first expiry is among those of the snapshot. */
  readonly slice: number;
}

/** What names contracts by their id. */
export interface Named {
  readonly expiries: readonly ExpiryId[];
  readonly contracts: Pick<SolvedContracts, 'expiry' | 'sign' | 'strike'>;
}

const named = ({ expiries, contracts }: SolvedMarket): Named => ({
  expiries: expiries.map(({ fit }) => fit),
  contracts,
});

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

export function candidateRow(solved: SolvedMarket, table: CandidateTable, at: number): CandidateRow {
  return {
    kind: kindAt(table, at),
    legs: legsOf(named(solved), table, at),
    measures: Object.fromEntries(MEASURE_KEYS.map((key, place) => [key, table.columns[place]![at]!])) as Record<
      FinderMeasure,
      number
    >,
    slice: solved.expiries[table.expiry[at]!]!.at,
  };
}

/** What a candidate gains at its first expiry, by the price there; what expires later is revalued on its curve. */
export function profitOfCandidate(
  { expiries, contracts }: SolvedMarket,
  table: CandidateTable,
  at: number,
): (price: number) => number {
  const place = table.expiry[at]!;
  const elapsed = expiries[place]!.fit.years;
  const ids = Array.from(table.legs.subarray(MOST_LEGS * at, MOST_LEGS * (at + 1))).filter((id) => id >= 0);
  const cost = columnOf(table, 'cost')[at]!;
  return (price) =>
    ids.reduce(
      (sum, id, leg) => {
        const [sign, strike] = [contracts.sign[id]!, contracts.strike[id]!];
        const isOver = contracts.expiry[id] === place;
        const value = isOver
          ? Math.max(0, sign * (price - strike))
          : expiries[contracts.expiry[id]!]!.moved.value(sign, strike, { ...unmoved(price), elapsed });
        return sum + table.quantities[MOST_LEGS * at + leg]! * value;
      },
      table.held[at]! * price - cost,
    );
}
