/** A line of a derivation: in words, as a formula with its numbers, and as plain text to be copied. */
export interface WorkingLine {
  words: string;
  tex: string;
  /** The quantity that it ends with, where one can be asked for. */
  key?: string;
}

/** A number with its working: what it is of, how it comes about, and what else there is to compare it with. */
export interface Work {
  title: string;
  lines: readonly WorkingLine[];
  /** What it would be otherwise, a row each. */
  others?: { heads: readonly string[]; rows: readonly (readonly string[])[] } | undefined;
  /** The line that was asked for, by its key; it is scrolled to. */
  at?: string | undefined;
}

/** Less than this is what rounding leaves of nothing. */
const NOTHING = 1e-12;

/** A number in a formula, to eight figures. */
export const number = (value: number, digits = 8): string => {
  if (!Number.isFinite(value)) return '\\text{–}';
  if (Math.abs(value) < NOTHING) return '0';
  const [mantissa = '', power] = Number(value.toPrecision(digits)).toString().split('e');
  return power === undefined ? mantissa : `${mantissa}\\cdot10^{${Number(power)}}`;
};
/** The same in brackets where it is negative. */
export const signed = (value: number) => (value < 0 ? `(${number(value)})` : number(value));
