import { createHash } from 'node:crypto';
import {
  emptySide,
  SETTLEMENTS,
  type QuoteBlock,
  type Settlement,
  type SideQuotes,
  type SliceQuotes,
  type Snapshot,
} from '@umwelt/core';
import { CellError, choice, optionalNumber, requiredDay, requiredNumber, plainWords, type Cells } from './cells';

export const SIDES = { c: 'call', call: 'call', p: 'put', put: 'put' } as const;
export const SETTLEMENT_WORDS = plainWords(SETTLEMENTS);

/** Numbers of a row as they stand one after the other in `values` of an open slice. */
const STRIDE = 10;
const SIGN = 0;
const STRIKE = 1;
const FIRST_FIELD = 2;
const ROW = 9;
const FIRST_ROWS = 64;
const FIELDS = ['bid', 'ask', 'bidSize', 'askSize', 'last', 'volume', 'openInterest'] as const;

/** Rows of an expiry as they came. */
interface OpenSlice {
  expiry: string;
  settlement: Settlement;
  values: Float64Array;
  rows: number;
}

interface OpenSnapshot {
  symbol: string;
  asof: number;
  price: number;
  rows: number;
  bad: boolean;
  slices: Map<string, OpenSlice>;
  /** The expiry of the row before: most rows follow one of the same. */
  latest: OpenSlice | null;
}

/** A snapshot whose rows have all been read. */
export interface FinishedSnapshot {
  snapshot: Snapshot;
  contracts: number;
  digest: string;
}

/** An expiry of a block's text, read once: a day, or what is wrong with it. */
export type ReadText<T> = { value: T } | { error: CellError };

const NOT_NEGATIVE = { min: 0 };
const POSITIVE = { above: 0 };

/** Up to this many rows wait in memory for the rest of their snapshots. */
const MOST_OPEN_ROWS = 300_000;
/** While every snapshot of the file has come in one piece, no more than this are held back. */
const MOST_GROUPED_ROWS = 10_000;

/**
 * Puts the rows of a chain file together to whole snapshots. A file whose snapshots come one after the other is
 * handed on as it is read; once rows of several snapshots are seen to alternate, rows are held until
 * {@link MOST_OPEN_ROWS} wait. A snapshot of which a row is bad is never handed out.
 */
export class SnapshotAssembler {
  private readonly open = new Map<string, OpenSnapshot>();
  private readonly closed = new Set<string>();
  private openRows = 0;
  private latest: OpenSnapshot | null = null;
  private isGrouped = true;
  /** Snapshots that were left out because a row of theirs is bad. */
  spoiled = 0;

  /** @param onFault told of a bad row that is only seen when its snapshot is put together */
  constructor(private readonly onFault: (row: number, error: CellError) => void) {}

  /**
   * Adds a row of cells.
   *
   * @param fault what is known to be wrong with the row already
   * @throws CellError for a cell that cannot be read; the snapshot of the row is then left out
   */
  add(symbol: string, asof: number, row: number, cells: Cells, fault: CellError | null): void {
    const snapshot = this.openSnapshot(symbol, asof, () => cells('asof') ?? '');
    snapshot.rows++;
    this.openRows++;
    try {
      if (fault) throw fault;
      addCells(snapshot, row, cells);
    } catch (error) {
      snapshot.bad = true;
      throw error;
    }
  }

  /**
   * Adds rows of a block that belong to one snapshot.
   *
   * @param expiries what the numbers of the block's expiries mean; so for settlements
   */
  addRun(
    symbol: string,
    asof: number,
    block: QuoteBlock,
    from: number,
    to: number,
    expiries: readonly ReadText<string>[],
    settlements: readonly ReadText<Settlement>[],
  ): void {
    let snapshot: OpenSnapshot;
    try {
      snapshot = this.openSnapshot(symbol, asof, () => new Date(asof).toISOString());
    } catch (error) {
      for (let i = from; i < to; i++) this.onFault(block.row[i]!, error as CellError);
      return;
    }
    snapshot.rows += to - from;
    this.openRows += to - from;
    const { expiry, settlement } = block.text;
    const spot = block.number.underlying_price;
    let expiryId = -1;
    let settlementId = -1;
    let slice: OpenSlice | null = null;
    for (let i = from; i < to; i++) {
      if (expiry[i] !== expiryId || settlement[i] !== settlementId || !slice) {
        expiryId = expiry[i]!;
        settlementId = settlement[i]!;
        const day = expiries[expiryId]!;
        const settles = settlements[settlementId]!;
        const error = 'error' in day ? day.error : 'error' in settles ? settles.error : null;
        if (error) {
          snapshot.bad = true;
          slice = null;
          this.onFault(block.row[i]!, error);
          continue;
        }
        if ('value' in day && 'value' in settles) slice = openSlice(snapshot, day.value, settles.value);
      }
      const price = spot[i]!;
      if (price !== snapshot.price && price === price && !this.notes(snapshot, price, block.row[i]!)) continue;
      if (slice) pushBlockRow(slice, block, i);
    }
  }

  private notes(snapshot: OpenSnapshot, price: number, row: number): boolean {
    try {
      notePrice(snapshot, price);
      return true;
    } catch (error) {
      snapshot.bad = true;
      this.onFault(row, error as CellError);
      return false;
    }
  }

  private openSnapshot(symbol: string, asof: number, asofText: () => string): OpenSnapshot {
    // Most rows follow one of the same snapshot.
    if (this.latest?.asof === asof && this.latest.symbol === symbol) return this.latest;
    const key = `${symbol} ${asof}`;
    let found = this.open.get(key);
    if (found) this.isGrouped = false;
    else {
      if (this.closed.has(key)) {
        throw new CellError(
          'asof',
          asofText(),
          `lies far from the other rows of its snapshot of ${symbol}: sort the file by asof and symbol`,
        );
      }
      found = { symbol, asof, price: NaN, rows: 0, bad: false, slices: new Map(), latest: null };
      this.open.set(key, found);
    }
    this.latest = found;
    return found;
  }

  /** Hands out what need not wait any longer; at the end of the file, everything. */
  *take(isEnd: boolean): Generator<FinishedSnapshot> {
    const most = this.isGrouped ? MOST_GROUPED_ROWS : MOST_OPEN_ROWS;
    for (const [key, snapshot] of this.open) {
      // The one whose rows are coming in stays, however large it is.
      if (!isEnd && (this.openRows <= most || snapshot === this.latest)) return;
      this.open.delete(key);
      this.closed.add(key);
      this.openRows -= snapshot.rows;
      const slices = [...snapshot.slices.values()].map((slice) => this.finishSlice(slice, snapshot));
      if (snapshot.bad) this.spoiled++;
      else yield finish(snapshot, slices);
    }
  }

  private finishSlice(open: OpenSlice, snapshot: OpenSnapshot): SliceQuotes {
    const { values, rows } = open;
    const order = orderOf(values, rows);
    const strikes = new Float64Array(rows);
    const call = new Int32Array(rows).fill(-1);
    const put = new Int32Array(rows).fill(-1);
    let count = 0;
    for (let n = 0; n < rows; n++) {
      const at = order ? order[n]! : n;
      const strike = values[at * STRIDE + STRIKE]!;
      if (count === 0 || strikes[count - 1] !== strike) strikes[count++] = strike;
      const isCall = values[at * STRIDE + SIGN]! > 0;
      const side = isCall ? call : put;
      if (side[count - 1]! >= 0) {
        snapshot.bad = true;
        const reason = `the ${isCall ? 'call' : 'put'} of ${open.expiry} stands twice in its snapshot`;
        this.onFault(values[at * STRIDE + ROW]!, new CellError('strike', String(strike), reason));
      }
      side[count - 1] = at;
    }
    return {
      expiry: open.expiry,
      settlement: open.settlement,
      strike: strikes.slice(0, count),
      call: sideQuotes(values, call, count),
      put: sideQuotes(values, put, count),
    };
  }
}

/** The order of the rows by strike, as they came within a strike; null when they came so. */
function orderOf(values: Float64Array, rows: number): Int32Array | null {
  let isSorted = true;
  for (let n = 1; n < rows && isSorted; n++) {
    isSorted = values[n * STRIDE + STRIKE]! >= values[(n - 1) * STRIDE + STRIKE]!;
  }
  if (isSorted) return null;
  return Int32Array.from({ length: rows }, (_, n) => n).sort(
    (a, b) => values[a * STRIDE + STRIKE]! - values[b * STRIDE + STRIKE]! || a - b,
  );
}

function sideQuotes(values: Float64Array, rowAt: Int32Array, count: number): SideQuotes {
  const quotes = emptySide(count);
  for (let f = 0; f < FIELDS.length; f++) {
    const column = quotes[FIELDS[f]!];
    for (let i = 0; i < count; i++) {
      const row = rowAt[i]!;
      if (row >= 0) column[i] = values[row * STRIDE + FIRST_FIELD + f]!;
    }
  }
  return quotes;
}

function addCells(snapshot: OpenSnapshot, row: number, cells: Cells): void {
  const expiry = requiredDay(cells, 'expiry');
  const settlement = choice(cells, 'settlement', SETTLEMENT_WORDS, 'pm');
  const strike = requiredNumber(cells, 'strike', POSITIVE);
  const sign = choice(cells, 'side', SIDES) === 'call' ? 1 : -1;
  const field = (name: string) => optionalNumber(cells, name, NOT_NEGATIVE);
  const fields = [
    field('bid'),
    field('ask'),
    field('bid_size'),
    field('ask_size'),
    field('last'),
    field('volume'),
    field('open_interest'),
  ];
  const price = optionalNumber(cells, 'underlying_price', POSITIVE);
  if (!Number.isNaN(price)) notePrice(snapshot, price);
  const slice = openSlice(snapshot, expiry, settlement);
  grow(slice);
  slice.values.set([sign, strike, ...fields, row], STRIDE * slice.rows++);
}

function pushBlockRow(slice: OpenSlice, block: QuoteBlock, i: number): void {
  grow(slice);
  const { number } = block;
  const { values } = slice;
  const at = STRIDE * slice.rows++;
  values[at] = block.sign[i]!;
  values[at + 1] = number.strike[i]!;
  values[at + 2] = number.bid[i]!;
  values[at + 3] = number.ask[i]!;
  values[at + 4] = number.bid_size[i]!;
  values[at + 5] = number.ask_size[i]!;
  values[at + 6] = number.last[i]!;
  values[at + 7] = number.volume[i]!;
  values[at + 8] = number.open_interest[i]!;
  values[at + 9] = block.row[i]!;
}

function grow(slice: OpenSlice): void {
  if (slice.rows * STRIDE < slice.values.length) return;
  const larger = new Float64Array(2 * slice.values.length);
  larger.set(slice.values);
  slice.values = larger;
}

function notePrice(snapshot: OpenSnapshot, price: number): void {
  if (!Number.isNaN(snapshot.price) && snapshot.price !== price) {
    throw new CellError('underlying_price', String(price), `differs from ${snapshot.price} in the same snapshot`);
  }
  snapshot.price = price;
}

function openSlice(snapshot: OpenSnapshot, expiry: string, settlement: Settlement): OpenSlice {
  const { latest } = snapshot;
  if (latest?.expiry === expiry && latest.settlement === settlement) return latest;
  const key = expiry + settlement;
  let slice = snapshot.slices.get(key);
  if (!slice) {
    slice = { expiry, settlement, values: new Float64Array(FIRST_ROWS * STRIDE), rows: 0 };
    snapshot.slices.set(key, slice);
  }
  snapshot.latest = slice;
  return slice;
}

function finish({ symbol, asof, price, rows }: OpenSnapshot, unsorted: SliceQuotes[]): FinishedSnapshot {
  const slices = unsorted.sort((a, b) => (a.expiry + a.settlement < b.expiry + b.settlement ? -1 : 1));
  return finishSnapshot({ symbol, asof, price, slices }, rows);
}

/** A snapshot as it is stored: with the hash of its quotes, by which it is known again. */
export function finishSnapshot(snapshot: Snapshot, contracts: number): FinishedSnapshot {
  const hash = createHash('sha1').update(String(snapshot.price));
  for (const slice of snapshot.slices) {
    hash.update(slice.expiry + slice.settlement).update(slice.strike);
    for (const side of [slice.call, slice.put]) for (const field of FIELDS) hash.update(side[field]);
  }
  return { snapshot, contracts, digest: hash.digest('hex') };
}
