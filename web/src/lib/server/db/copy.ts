import { getTableColumns, getTableName } from 'drizzle-orm';
import type { PgTable } from 'drizzle-orm/pg-core';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { from as copyFrom, to as copyTo } from 'pg-copy-streams';
import type { Session } from './client';

/**
 * Rows in the binary format of COPY (PostgreSQL's documentation, "COPY", "Binary Format"): several times quicker than
 * a statement with values, on both sides, since no number becomes a text.
 */
class BinaryRows {
  private bytes = Buffer.allocUnsafe(1 << 16);
  private view = new DataView(this.bytes.buffer, this.bytes.byteOffset, this.bytes.length);
  private at = 0;

  private reserve(length: number): number {
    const at = this.at;
    this.at += length;
    if (this.at > this.bytes.length) {
      const larger = Buffer.allocUnsafe(2 * this.at);
      this.bytes.copy(larger, 0, 0, at);
      this.bytes = larger;
      this.view = new DataView(larger.buffer, larger.byteOffset, larger.length);
    }
    return at;
  }

  raw(bytes: Uint8Array): void {
    const at = this.reserve(bytes.length);
    this.bytes.set(bytes, at);
  }
  int16(value: number): void {
    const at = this.reserve(2);
    this.view.setInt16(at, value);
  }
  int32(value: number): void {
    const at = this.reserve(4);
    this.view.setInt32(at, value);
  }
  int64(value: number): void {
    const at = this.reserve(8);
    this.view.setBigInt64(at, BigInt(value));
  }
  float64(value: number): void {
    const at = this.reserve(8);
    this.view.setFloat64(at, value);
  }
  text(value: string, prefix = 0): void {
    const length = Buffer.byteLength(value);
    this.int32(length + prefix);
    if (prefix > 0) this.raw(JSONB_VERSION);
    const at = this.reserve(length);
    this.bytes.write(value, at);
  }
  doubles(values: ArrayLike<number>): void {
    const count = values.length;
    const at = this.reserve(4 + ARRAY_HEADER + ELEMENT * count);
    const { view } = this;
    view.setInt32(at, ARRAY_HEADER + ELEMENT * count);
    view.setInt32(at + 4, 1);
    view.setInt32(at + 8, 0);
    view.setInt32(at + 12, FLOAT8_OID);
    view.setInt32(at + 16, count);
    view.setInt32(at + 20, 1);
    for (let i = 0, p = at + 24; i < count; i++, p += ELEMENT) {
      view.setInt32(p, 8);
      view.setFloat64(p + 4, values[i]!);
    }
  }
  get length(): number {
    return this.at;
  }
  /** Returns the buffered bytes and starts a new buffer. */
  take(): Buffer {
    const taken = Buffer.from(this.bytes.subarray(0, this.at));
    this.at = 0;
    return taken;
  }
}

const SIGNATURE = Buffer.from('PGCOPY\n\xff\r\n\0\0\0\0\0\0\0\0\0', 'latin1');
const JSONB_VERSION = Uint8Array.of(1);
const FLOAT8_OID = 701;
/** Bytes of a one-dimensional array before its elements, and of one element of doubles. */
const ARRAY_HEADER = 20;
const ELEMENT = 12;
/** Bytes sent at once, about. */
const PIECE = 1 << 17;
const END = -1;
const NULL = -1;
/** Times of PostgreSQL count from here. */
const EPOCH = Date.UTC(2000, 0, 1);
const DAY = 86_400_000;

type Encoder = (rows: BinaryRows, value: never) => void;

const ENCODERS: Record<string, Encoder> = {
  text: (rows, value: string) => rows.text(value),
  jsonb: (rows, value: unknown) => rows.text(JSON.stringify(value), JSONB_VERSION.length),
  date: (rows, value: string) => {
    rows.int32(4);
    rows.int32((Date.parse(value) - EPOCH) / DAY);
  },
  'timestamp with time zone': (rows, value: Date) => {
    rows.int32(8);
    rows.int64((value.getTime() - EPOCH) * 1000);
  },
  'double precision': (rows, value: number) => {
    rows.int32(8);
    rows.float64(value);
  },
  integer: (rows, value: number) => {
    rows.int32(4);
    rows.int32(value);
  },
  bigint: (rows, value: number) => {
    rows.int32(8);
    rows.int64(value);
  },
  smallint: (rows, value: number) => {
    rows.int32(2);
    rows.int16(value);
  },
  'double precision[]': (rows, value: ArrayLike<number>) => rows.doubles(value),
};

/**
 * Inserts many rows.
 *
 * @param session the connection of the transaction
 * @param rows as the schema types them; arrays of doubles may hold NaN
 * @param into another table with the same columns, such as a temporary one
 * @throws RangeError for a column of a type that has no encoder here
 */
export async function copyRows<T extends PgTable>(
  session: Session,
  table: T,
  rows: readonly T['$inferInsert'][],
  into: string = getTableName(table),
): Promise<void> {
  if (rows.length === 0) return;
  const columns = Object.entries(getTableColumns(table)).map(([key, column]) => {
    const encode = ENCODERS[column.getSQLType()];
    if (!encode) throw new RangeError(`no binary form of ${column.getSQLType()}`);
    return { key, name: column.name, encode };
  });
  const names = columns.map(({ name }) => `"${name}"`).join(',');
  const statement = `COPY "${into}" (${names}) FROM STDIN (FORMAT binary)`;
  const pieces = function* () {
    const out = new BinaryRows();
    out.raw(SIGNATURE);
    for (const row of rows as readonly Record<string, unknown>[]) {
      out.int16(columns.length);
      for (const { key, encode } of columns) {
        const value = row[key];
        if (value === null || value === undefined) out.int32(NULL);
        else encode(out, value as never);
      }
      if (out.length > PIECE) yield out.take();
    }
    out.int16(END);
    yield out.take();
  };
  await pipeline(Readable.from(pieces()), session.$client.query(copyFrom(statement)));
}

/** Bytes before the rows of a binary copy, without an extension. */
const HEAD = SIGNATURE.length;
/** Bytes of a row without its fields, and of a field of eight bytes. */
const ROW = 2;
const FIELD = 12;

/**
 * Reads many rows of doubles as columns, in the binary format of COPY: no number becomes a text, which takes longer than the
 * reading itself.
 *
 * @param query whose columns are all double precision; missing values become NaN
 * @param width how many columns it has
 */
export async function readColumns(session: Session, query: string, width: number): Promise<Float64Array[]> {
  let columns = Array.from({ length: width }, () => new Float64Array(1 << 12));
  let count = 0;
  let rest: Buffer = Buffer.alloc(0);
  let isHead = true;
  const most = ROW + width * FIELD;
  /** Takes rows while so many bytes are left, and gives back where it stopped. */
  const take = (bytes: Buffer, from: number, least: number): number => {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    let at = from;
    while (bytes.length - at >= least && view.getInt16(at) !== END) {
      if (count === columns[0]!.length) {
        columns = columns.map((column) => {
          const larger = new Float64Array(2 * column.length);
          larger.set(column);
          return larger;
        });
      }
      at += ROW;
      for (let c = 0; c < width; c++) {
        const length = view.getInt32(at);
        at += 4;
        if (length === NULL) columns[c]![count] = NaN;
        else {
          columns[c]![count] = view.getFloat64(at);
          at += length;
        }
      }
      count++;
    }
    return at;
  };
  const stream = session.$client.query(copyTo(`COPY (${query}) TO STDOUT (FORMAT binary)`));
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    const bytes = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
    if (isHead && bytes.length < HEAD) rest = bytes;
    else {
      rest = bytes.subarray(take(bytes, isHead ? HEAD : 0, most));
      isHead = false;
    }
  }
  // Rows with missing values are shorter than ROW: what is left at the end are whole rows.
  take(rest, 0, ROW);
  return columns.map((column) => column.slice(0, count));
}
