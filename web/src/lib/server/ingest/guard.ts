/** What a spreadsheet would run: a text that begins so, with or without guards before it. */
const RUNS = /^'*[=+\-@\t\r]/;

/** A text as a cell of a CSV file that no spreadsheet runs as a formula: with an apostrophe before it. */
export function guarded(text: string): string {
  return RUNS.test(text) ? `'${text}` : text;
}

/** The text that was guarded. */
export function unguarded(text: string): string {
  return text.startsWith("'") && RUNS.test(text) ? text.slice(1) : text;
}
