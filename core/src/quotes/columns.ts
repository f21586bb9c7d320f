/** Columns of a chain file whose cells are texts, and those whose cells are numbers, each in the order of its code. */
export const TEXT_COLUMNS = ['asof', 'symbol', 'expiry', 'settlement'] as const;
export const NUMBER_COLUMNS = [
  'strike',
  'bid',
  'ask',
  'bid_size',
  'ask_size',
  'last',
  'volume',
  'open_interest',
  'underlying_price',
] as const;
export type TextColumn = (typeof TEXT_COLUMNS)[number];
export type NumberColumn = (typeof NUMBER_COLUMNS)[number];
export type QuoteColumn = TextColumn | NumberColumn | 'side';

/** The texts of a column, each once, by number; 0 stands for an empty cell. */
export class Texts {
  private readonly ids = new Map<string, number>([['', 0]]);
  readonly list = [''];

  idOf(text: string): number {
    let id = this.ids.get(text);
    if (id === undefined) {
      id = this.list.push(text) - 1;
      this.ids.set(text, id);
    }
    return id;
  }
}

/** Rows of a chain file as columns. Made once, filled again and again. */
export class QuoteBlock {
  /** Rows in it. */
  count = 0;
  /** Row of the file that each came from. */
  readonly row: Int32Array;
  /** +1 calls, −1 puts. */
  readonly sign: Int8Array;
  /** Numbers into {@link QuoteLines.texts}. */
  readonly text: Record<TextColumn, Int32Array>;
  /** NaN for an empty cell, and for a column that the file does not have. */
  readonly number: Record<NumberColumn, Float64Array>;
  /** The columns of numbers, one after the other. */
  readonly numbers: Float64Array;

  constructor(readonly capacity: number) {
    this.row = new Int32Array(capacity);
    this.sign = new Int8Array(capacity);
    this.numbers = new Float64Array(NUMBER_COLUMNS.length * capacity).fill(NaN);
    this.text = Object.fromEntries(TEXT_COLUMNS.map((name) => [name, new Int32Array(capacity)])) as QuoteBlock['text'];
    this.number = Object.fromEntries(
      NUMBER_COLUMNS.map((name, i) => [name, this.numbers.subarray(i * capacity, (i + 1) * capacity)]),
    ) as QuoteBlock['number'];
  }
}
