import { FINDER_KINDS, type FinderKind } from './kinds';
import { MEASURE_KEYS, type FinderMeasure } from './measures';

/** Place of a measure among the columns. */
export const PLACE = Object.fromEntries(MEASURE_KEYS.map((key, i) => [key, i])) as Readonly<
  Record<FinderMeasure, number>
>;

/** Legs of a candidate at most. */
export const MOST_LEGS = 4;

/** Candidates of an underlying, a column for each measure: per unit of the underlying, NaN for what is not known. */
export interface CandidateTable {
  readonly count: number;
  /** Places of the measures are those of {@link MEASURE_KEYS}. */
  readonly columns: readonly Float64Array[];
  /** Place of the kind among {@link FINDER_KINDS}. */
  readonly kind: Uint8Array;
  /** Contracts by their id, four a candidate; −1 where there are fewer. */
  readonly legs: Int32Array;
  readonly quantities: Int8Array;
  readonly held: Int8Array;
  /** Place of the first expiry among those that are looked through. */
  readonly expiry: Int32Array;
}

/** A column of a table. */
export const columnOf = (table: CandidateTable, measure: FinderMeasure): Float64Array => table.columns[PLACE[measure]]!;

export const kindAt = ({ kind }: CandidateTable, at: number): FinderKind => FINDER_KINDS[kind[at]!]!;

/** All measures of a candidate. */
export const measuresAt = (table: CandidateTable, at: number): Record<FinderMeasure, number> =>
  Object.fromEntries(MEASURE_KEYS.map((key, place) => [key, table.columns[place]![at]!])) as Record<
    FinderMeasure,
    number
  >;

/** Bytes of a candidate. */
const BYTES = 8 * MEASURE_KEYS.length + 4 * MOST_LEGS + 4 + MOST_LEGS + 2;

/** Room for some candidates, in one piece: shared between threads where they can share. */
export function makeTable(count: number, isShared = false): CandidateTable {
  // Columns of doubles begin where doubles may.
  const size = BYTES * count + 64;
  return tableIn(isShared ? new SharedArrayBuffer(size) : new ArrayBuffer(size), count);
}

/** The table that lies in a piece of memory. */
export function tableIn(memory: ArrayBufferLike, count: number): CandidateTable {
  let at = 0;
  const take = <Column>(make: (offset: number) => Column, bytes: number): Column => {
    const made = make(at);
    at += bytes * count;
    return made;
  };
  const columns = MEASURE_KEYS.map(() => take((offset) => new Float64Array(memory, offset, count), 8));
  const legs = take((offset) => new Int32Array(memory, offset, MOST_LEGS * count), 4 * MOST_LEGS);
  const expiry = take((offset) => new Int32Array(memory, offset, count), 4);
  const quantities = take((offset) => new Int8Array(memory, offset, MOST_LEGS * count), MOST_LEGS);
  const held = take((offset) => new Int8Array(memory, offset, count), 1);
  const kind = take((offset) => new Uint8Array(memory, offset, count), 1);
  return { count, columns, kind, legs, quantities, held, expiry };
}
