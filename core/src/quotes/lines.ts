import { NUMBER_COLUMNS, QuoteBlock, TEXT_COLUMNS, Texts, type QuoteColumn, type TextColumn } from './columns';

const COMMA = 44;
const POINT = 46;
const QUOTE = 34;
const LINE_FEED = 10;
const RETURN = 13;
const ZERO = 48;
const LOWER = 32;
const FIRST_PRINTABLE = 33;
const LAST_PRINTABLE = 126;

/** Codes of a field: what to do with the cell at a position of the line. */
const SKIP = 0;
const SIDE = 1;
const FIRST_TEXT = 2;
const FIRST_NUMBER = FIRST_TEXT + TEXT_COLUMNS.length;

/** Longer texts are left to the general reader. */
const LONGEST_TEXT = 64;
/** More digits than this are not an exact integer in a double. */
const MOST_DIGITS = 15;
/** Characters of a number that is read as a whole one of 32 bits; longer ones take another way. */
const MOST_WHOLE = 9;
const POWERS = Float64Array.from({ length: MOST_DIGITS + 1 }, (_, n) => 10 ** n);

const SETTLEMENT = TEXT_COLUMNS.indexOf('settlement');
const STRIKE = NUMBER_COLUMNS.indexOf('strike');
const PRICE = NUMBER_COLUMNS.indexOf('underlying_price');

/** Why reading stopped. */
export type Stop = 'end' | 'full' | 'odd';

/**
 * Reads the lines of a chain file straight from its bytes into columns: the way of most lines, several times
 * quicker than cells and checks in general. It takes only what can be read in one way: cells without quotes and
 * without white space, decimal points, no signs, every number in its range. At any other line it stops, and whoever
 * called takes that line the general way, which says what is wrong with it.
 *
 * Numbers are read as an integer over a power of ten, which rounds correctly up to 15 digits (W. D. Clinger, "How to
 * Read Floating Point Numbers Accurately", 1990, the fast path).
 */
export class QuoteLines {
  readonly block: QuoteBlock;
  readonly texts: Record<TextColumn, Texts>;
  private readonly fields: Uint8Array;
  private readonly latest = TEXT_COLUMNS.map(() => new LatestText());
  private readonly textLists: Texts[];
  private readonly textColumns: Int32Array[];
  /** Where the line begins at which reading stopped. */
  position = 0;
  /** Number of the file's row that begins there. */
  row: number;

  /**
   * @param columns what stands at each position of a line; null for a column that is not read
   * @param firstRow number of the file's row that the first line is
   * @param capacity rows of a block
   */
  constructor(columns: readonly (QuoteColumn | null)[], firstRow: number, capacity = 4096) {
    this.fields = Uint8Array.from(columns, codeOf);
    this.row = firstRow;
    this.block = new QuoteBlock(capacity);
    this.texts = {
      asof: new Texts(),
      symbol: new Texts(),
      expiry: new Texts(),
      settlement: new Texts(),
    };
    this.textLists = TEXT_COLUMNS.map((name) => this.texts[name]);
    this.textColumns = TEXT_COLUMNS.map((name) => this.block.text[name]);
  }

  /**
   * Reads lines into the block, after the rows that it holds.
   *
   * @param bytes whole lines or not; what follows the last line end is left
   * @param from where a line begins
   * @param end where the bytes end
   * @returns `end` when no complete line is left, `full` when the block is, `odd` at a line that is not plain;
   *   `position` is where that line begins
   */
  read(bytes: Uint8Array, from: number, end: number): Stop {
    const { block, fields } = this;
    const { numbers, capacity } = block;
    const last = fields.length - 1;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    this.position = from;
    for (;;) {
      if (block.count === capacity) return 'full';
      const at = block.count;
      let p = this.position;
      if (p >= end) return 'end';
      if (bytes[p] === LINE_FEED || (bytes[p] === RETURN && bytes[p + 1] === LINE_FEED && p + 1 < end)) {
        this.position = bytes[p] === LINE_FEED ? p + 1 : p + 2;
        this.row++;
        continue;
      }
      for (let f = 0; f <= last; f++) {
        const code = fields[f]!;
        if (code >= FIRST_NUMBER) {
          // Whole numbers are quicker than doubles as long as they fit.
          let whole = 0;
          let point = -1;
          const start = p;
          const most = p + MOST_WHOLE;
          let d = bytes[p]! - ZERO;
          while (d < 10 && d >= 0 && p < most) {
            whole = (whole * 10 + d) | 0;
            d = bytes[++p]! - ZERO;
          }
          if (d === POINT - ZERO) {
            point = p;
            d = bytes[++p]! - ZERO;
            while (d < 10 && d >= 0 && p < most) {
              whole = (whole * 10 + d) | 0;
              d = bytes[++p]! - ZERO;
            }
          }
          let value: number;
          let digits = p - start;
          if (d < 10 && d >= 0) {
            p = longNumberEnd(bytes, start);
            if (p < 0) return this.odd(bytes, end);
            value = LONG[0]!;
          } else {
            value = whole;
            if (point >= 0) {
              digits--;
              value /= POWERS[p - point - 1]!;
              if (digits === 0) return this.odd(bytes, end);
            }
          }
          const column = code - FIRST_NUMBER;
          if (digits === 0) {
            if (column === STRIKE) return this.odd(bytes, end);
            value = NaN;
          }
          if (value === 0 && (column === STRIKE || column === PRICE)) return this.odd(bytes, end);
          numbers[column * capacity + at] = value;
        } else if (code >= FIRST_TEXT) {
          p = this.readText(code - FIRST_TEXT, bytes, view, p, end, at);
          if (p < 0) return this.odd(bytes, end);
        } else if (code === SIDE) {
          const word = sideAt(bytes, p);
          if (word === 0) return this.odd(bytes, end);
          block.sign[at] = word > 0 ? 1 : -1;
          p += word > 0 ? word : -word;
        } else {
          while (p < end && bytes[p] !== COMMA && bytes[p] !== LINE_FEED && bytes[p] !== RETURN && bytes[p] !== QUOTE) {
            if (bytes[p]! > LAST_PRINTABLE) return this.odd(bytes, end);
            p++;
          }
        }
        const separator = bytes[p];
        if (f < last) {
          if (separator !== COMMA || p >= end) return this.odd(bytes, end);
          p++;
        } else if (separator === LINE_FEED && p < end) p++;
        else if (separator === RETURN && bytes[p + 1] === LINE_FEED && p + 1 < end) p += 2;
        else return this.odd(bytes, end);
      }
      block.row[at] = this.row++;
      block.count = at + 1;
      this.position = p;
    }
  }

  /** An incomplete line looks odd too: it is the end of what there is. */
  private odd(bytes: Uint8Array, end: number): Stop {
    const lineEnd = bytes.indexOf(LINE_FEED, this.position);
    return lineEnd < 0 || lineEnd >= end ? 'end' : 'odd';
  }

  /** Takes the text of a cell; returns where it ends, or −1 for one that the general reader has to see. */
  private readText(column: number, bytes: Uint8Array, view: DataView, from: number, end: number, at: number): number {
    const latest = this.latest[column]!;
    const length = latest.length;
    const p = from + length;
    // Room for whole words: past them the bytes are those of the line.
    if (p + 4 <= end && isEnd(bytes[p]!)) {
      const { words } = latest;
      const wholeWords = length >> 2;
      let n = 0;
      while (n < wholeWords && view.getInt32(from + 4 * n, true) === words[n]) n++;
      if (n === wholeWords && (view.getInt32(from + 4 * n, true) & latest.mask) === words[n]) {
        this.textColumns[column]![at] = latest.id;
        return p;
      }
    }
    return this.newText(column, bytes, from, end, at);
  }

  private newText(column: number, bytes: Uint8Array, from: number, end: number, at: number): number {
    let p = from;
    let text = '';
    while (p < end && !isEnd(bytes[p]!)) {
      const byte = bytes[p]!;
      if (byte < FIRST_PRINTABLE || byte > LAST_PRINTABLE || byte === QUOTE || p - from >= LONGEST_TEXT) return -1;
      text += String.fromCharCode(byte);
      p++;
    }
    if (p === from && column !== SETTLEMENT) return -1;
    const id = this.textLists[column]!.idOf(text);
    this.latest[column]!.take(bytes, from, p, id);
    this.textColumns[column]![at] = id;
    return p;
  }
}

/** The latest text of a column, four bytes to a word, so that the next line's is compared quickly. */
class LatestText {
  readonly words = new Int32Array(LONGEST_TEXT / 4 + 1);
  length = 0;
  /** Which bits of the last, incomplete word count; at first all of them, so that nothing matches. */
  mask = -1;
  id = 0;

  take(bytes: Uint8Array, from: number, end: number, id: number): void {
    this.length = end - from;
    this.mask = 2 ** (8 * (this.length & 3)) - 1;
    this.id = id;
    this.words.fill(0);
    for (let i = from; i < end; i++) this.words[(i - from) >> 2]! |= bytes[i]! << (8 * ((i - from) & 3));
  }
}

const LONG = new Float64Array(1);

/** Reads a number of more digits into LONG; returns where it ends, or −1 where it has too many. */
function longNumberEnd(bytes: Uint8Array, from: number): number {
  let value = 0;
  let digits = 0;
  let point = -1;
  let p = from;
  for (; ; p++) {
    const d = bytes[p]! - ZERO;
    if (d >= 0 && d < 10) {
      value = value * 10 + d;
      digits++;
    } else if (d === POINT - ZERO && point < 0) point = digits;
    else break;
  }
  if (digits > MOST_DIGITS) return -1;
  LONG[0] = point < 0 ? value : value / POWERS[digits - point]!;
  return p;
}

function isEnd(byte: number): boolean {
  return byte === COMMA || byte === LINE_FEED || byte === RETURN;
}

function codeOf(column: QuoteColumn | null): number {
  if (column === null) return SKIP;
  if (column === 'side') return SIDE;
  const text = (TEXT_COLUMNS as readonly string[]).indexOf(column);
  return text >= 0 ? FIRST_TEXT + text : FIRST_NUMBER + (NUMBER_COLUMNS as readonly string[]).indexOf(column);
}

const CALL = [...'call'].map((letter) => letter.charCodeAt(0));
const PUT = [...'put'].map((letter) => letter.charCodeAt(0));

function startsWith(bytes: Uint8Array, from: number, word: readonly number[]): boolean {
  for (let i = 0; i < word.length; i++) if ((bytes[from + i]! | LOWER) !== word[i]) return false;
  return true;
}

/** Length of the word for a call, less the length of the word for a put, 0 where neither stands. */
function sideAt(bytes: Uint8Array, from: number): number {
  const first = bytes[from]! | LOWER;
  if (first === CALL[0]) return isEnd(bytes[from + 1]!) ? 1 : startsWith(bytes, from, CALL) ? 4 : 0;
  if (first === PUT[0]) return isEnd(bytes[from + 1]!) ? -1 : startsWith(bytes, from, PUT) ? -3 : 0;
  return 0;
}
