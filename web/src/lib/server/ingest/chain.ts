import { createHash } from 'node:crypto';
import { emptySide, type Settlement, type SideQuotes, type SliceQuotes, type Snapshot } from '@umwelt/core';
import { CellError, choice, optionalNumber, requiredDay, requiredNumber, type Cells } from './cells';

const SIDES = { c: 'call', call: 'call', p: 'put', put: 'put' } as const;
const SETTLEMENTS: Record<string, Settlement> = { am: 'am', pm: 'pm' };

/** Rows of an expiry as they came: the fields of each row stand one after the other in `values`. */
interface OpenSlice {
  expiry: string;
  settlement: Settlement;
  /** Rows of the calls and of the puts by strike. */
  call: Map<number, number>;
  put: Map<number, number>;
  values: number[];
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

const NOT_NEGATIVE = { min: 0 };
const POSITIVE = { above: 0 };
const FIELDS = ['bid', 'ask', 'bidSize', 'askSize', 'last', 'volume', 'openInterest'] as const;

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

  /**
   * Adds a row.
   *
   * @param fault what is known to be wrong with the row already
   * @throws CellError for a cell that cannot be read; the snapshot of the row is then left out
   */
  add(symbol: string, asof: number, cells: Cells, fault: CellError | null): void {
    const snapshot = this.openSnapshot(symbol, asof, cells);
    snapshot.rows++;
    this.openRows++;
    try {
      if (fault) throw fault;
      addRow(snapshot, cells);
    } catch (error) {
      snapshot.bad = true;
      throw error;
    }
  }

  private openSnapshot(symbol: string, asof: number, cells: Cells): OpenSnapshot {
    // Most rows follow one of the same snapshot.
    if (this.latest?.asof === asof && this.latest.symbol === symbol) return this.latest;
    const key = `${symbol} ${asof}`;
    let found = this.open.get(key);
    if (found) this.isGrouped = false;
    else {
      if (this.closed.has(key)) {
        throw new CellError(
          'asof',
          cells('asof') ?? '',
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
      if (snapshot.bad) this.spoiled++;
      else yield finish(snapshot);
    }
  }
}

function addRow(snapshot: OpenSnapshot, cells: Cells): void {
  const expiry = requiredDay(cells, 'expiry');
  const settlement = choice(cells, 'settlement', SETTLEMENTS, 'pm');
  const strike = requiredNumber(cells, 'strike', POSITIVE);
  const side = choice(cells, 'side', SIDES);
  const bid = optionalNumber(cells, 'bid', NOT_NEGATIVE);
  const ask = optionalNumber(cells, 'ask', NOT_NEGATIVE);
  const bidSize = optionalNumber(cells, 'bid_size', NOT_NEGATIVE);
  const askSize = optionalNumber(cells, 'ask_size', NOT_NEGATIVE);
  const last = optionalNumber(cells, 'last', NOT_NEGATIVE);
  const volume = optionalNumber(cells, 'volume', NOT_NEGATIVE);
  const openInterest = optionalNumber(cells, 'open_interest', NOT_NEGATIVE);
  notePrice(snapshot, optionalNumber(cells, 'underlying_price', POSITIVE));
  const slice = openSlice(snapshot, expiry, settlement);
  if (slice[side].has(strike)) {
    throw new CellError('strike', cells('strike') ?? '', `the ${side} of ${expiry} stands twice in its snapshot`);
  }
  slice[side].set(strike, slice.rows++);
  slice.values.push(bid, ask, bidSize, askSize, last, volume, openInterest);
}

function notePrice(snapshot: OpenSnapshot, price: number): void {
  if (Number.isNaN(price)) return;
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
    slice = { expiry, settlement, call: new Map(), put: new Map(), values: [], rows: 0 };
    snapshot.slices.set(key, slice);
  }
  snapshot.latest = slice;
  return slice;
}

function finish(open: OpenSnapshot): FinishedSnapshot {
  const slices = [...open.slices.values()]
    .sort((a, b) => (a.expiry + a.settlement < b.expiry + b.settlement ? -1 : 1))
    .map(finishSlice);
  const hash = createHash('sha1').update(String(open.price));
  for (const slice of slices) {
    hash.update(slice.expiry + slice.settlement).update(slice.strike);
    for (const side of [slice.call, slice.put]) for (const field of FIELDS) hash.update(side[field]);
  }
  return {
    snapshot: { symbol: open.symbol, asof: open.asof, price: open.price, slices },
    contracts: open.rows,
    digest: hash.digest('hex'),
  };
}

function finishSlice(open: OpenSlice): SliceQuotes {
  const strike = Float64Array.from(new Set([...open.call.keys(), ...open.put.keys()])).sort();
  const side = (rowAt: Map<number, number>): SideQuotes => {
    const quotes = emptySide(strike.length);
    FIELDS.forEach((field, f) => {
      const column = quotes[field];
      for (let i = 0; i < strike.length; i++) {
        const row = rowAt.get(strike[i]!);
        if (row !== undefined) column[i] = open.values[row * FIELDS.length + f]!;
      }
    });
    return quotes;
  };
  return { expiry: open.expiry, settlement: open.settlement, strike, call: side(open.call), put: side(open.put) };
}
