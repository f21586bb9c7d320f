import Papa from 'papaparse';
import type { Readable } from 'node:stream';

/** A file that cannot be read as CSV. */
export class CsvError extends Error {}

/** No line of a table is longer than this; a quote that is never closed would be. */
const LONGEST_LINE = 4_000_000;

/** One row that is not blank. */
export interface CsvRow {
  number: number;
  cells: string[];
}

/**
 * Reads a CSV file (RFC 4180, UTF-8, with or without a byte-order mark) as a stream of batches of rows. Row
 * numbers count as a spreadsheet shows them: the header is row 1, blank rows count and are passed over.
 *
 * The parser gets whole lines: its own stream mode parses the rest of a chunk again at every pause.
 *
 * @throws CsvError for a quote that is never closed, or text that is not UTF-8
 */
export async function* csvBatches(source: Readable): AsyncGenerator<CsvRow[]> {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  let rest = '';
  let number = 0;
  const rowsOf = (text: string) => {
    const rows: CsvRow[] = [];
    // One blank line alone is a row too; the parser sees nothing in it.
    if (text === '') number++;
    for (const cells of Papa.parse<string[]>(text, { delimiter: ',' }).data) {
      number++;
      if (cells.some((cell) => cell.trim() !== '')) rows.push({ number, cells });
    }
    return rows;
  };
  for await (const chunk of source) {
    rest += decode(() => decoder.decode(chunk as Buffer, { stream: true }), number);
    const end = lastRowEnd(rest);
    if (end === 0 && rest.length > LONGEST_LINE) throw unclosedQuote(number);
    if (end === 0) continue;
    // Without its line end the last line is not followed by an empty one.
    yield rowsOf(rest.slice(0, rest[end - 2] === '\r' ? end - 2 : end - 1));
    rest = rest.slice(end);
  }
  rest += decode(() => decoder.decode(), number);
  if (rest === '') return;
  if (quotesIn(rest, rest.length) % 2 === 1) throw unclosedQuote(number);
  yield rowsOf(rest);
}

function decode(work: () => string, rowsSoFar: number): string {
  try {
    return work();
  } catch {
    throw new CsvError(`after row ${rowsSoFar}: the text is not UTF-8`);
  }
}

function unclosedQuote(rowsSoFar: number): CsvError {
  return new CsvError(`after row ${rowsSoFar}: a quote is opened and never closed`);
}

function quotesIn(text: string, end: number): number {
  let count = 0;
  for (let at = text.indexOf('"'); at >= 0 && at < end; at = text.indexOf('"', at + 1)) count++;
  return count;
}

/** Where the last complete row ends, its line end included; 0 when there is none. */
function lastRowEnd(text: string): number {
  for (let at = text.lastIndexOf('\n'); at >= 0; at = at > 0 ? text.lastIndexOf('\n', at - 1) : -1) {
    // A line end between quotes belongs to a cell.
    if (quotesIn(text, at) % 2 === 0) return at + 1;
  }
  return 0;
}
