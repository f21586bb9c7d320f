/** Numbers into figures: a true minus, thin spaces for thousands, no more digits than the quote justifies. */

const THIN_SPACE = '\u2009';
const MINUS = '\u2212';
/** What stands where there is no number. */
export const NOTHING = '–';

type Maybe = number | null | undefined;

function isNumber(value: Maybe): value is number {
  return typeof value === 'number' && Number.isFinite(value);
}

/** A number with a fixed count of decimals; −0.00 is 0.00. */
export function fixed(value: Maybe, decimals: number): string {
  if (!isNumber(value)) return NOTHING;
  const [whole = '', fraction] = Math.abs(value).toFixed(decimals).split('.');
  const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, THIN_SPACE);
  const text = fraction === undefined ? grouped : `${grouped}.${fraction}`;
  return value < 0 && /[1-9]/.test(text) ? MINUS + text : text;
}

/** A number with its sign, plus as well as minus; a rounded zero has none. */
export function signed(value: Maybe, decimals: number): string {
  const text = fixed(value, decimals);
  return isNumber(value) && value > 0 && /[1-9]/.test(text) ? `+${text}` : text;
}

/** A distance to both sides: ±4.30. */
export function plusMinus(value: Maybe, decimals: number): string {
  return isNumber(value) ? `±${fixed(value, decimals)}` : NOTHING;
}

/**
 * One standard error where it exceeds what the digits of a number say: ±1.4; nothing where the digits are known.
 *
 * @param decimals those of the number
 */
export function doubt(error: Maybe, decimals: number): string {
  return isNumber(error) && error > 0.5 * 10 ** -decimals ? plusMinus(error, decimals) : '';
}

/** The same of a vol or a difference of vols, in points. */
export function volDoubt(error: Maybe, decimals = 1): string {
  return doubt(isNumber(error) ? 100 * error : null, decimals);
}

/** A decimal vol in vol points: 0.226 → 22.6. */
export function vol(value: Maybe, decimals = 1): string {
  return fixed(isNumber(value) ? 100 * value : null, decimals);
}

/** A difference of vols in points, with its sign. */
export function volChange(value: Maybe, decimals = 1): string {
  return signed(isNumber(value) ? 100 * value : null, decimals);
}

/** A share as per cent with a space: 0.241 → 24.1 %. */
export function percent(value: Maybe, decimals = 1): string {
  return isNumber(value) ? `${fixed(100 * value, decimals)} %` : NOTHING;
}

/** A signed share as per cent. */
export function percentChange(value: Maybe, decimals = 2): string {
  return isNumber(value) ? `${signed(100 * value, decimals)} %` : NOTHING;
}

/** Decimals that a tick needs: 0.05 → 2, 0.5 → 1, 5 → 0; two where there is no tick. */
export function decimalsOf(tick: Maybe): number {
  if (!isNumber(tick) || tick <= 0) return 2;
  let decimals = 0;
  while (decimals < 8 && Math.abs(tick * 10 ** decimals - Math.round(tick * 10 ** decimals)) > 1e-9) decimals++;
  return decimals;
}

/** A strike: as many decimals as it has. */
export function strike(value: Maybe): string {
  return isNumber(value) ? fixed(value, decimalsOf(Math.abs(value) || 1)) : NOTHING;
}

/** A whole number. */
export function count(value: Maybe): string {
  return fixed(value, 0);
}

/** Decimals of gamma: fewer for cheap underlyings, so that three or four figures are seen. */
export function gammaDecimals(price: Maybe): number {
  return isNumber(price) && price > 0 ? Math.max(4, Math.ceil(Math.log10(price)) + 1) : 4;
}

/** Days to expiry: whole ones, one decimal under three days. */
export function days(value: Maybe): string {
  return isNumber(value) ? fixed(value, value < 3 ? 1 : 0) : NOTHING;
}

/** The plural of a word where it is due: 1 session, 2 sessions. */
export function counted(number: number, word: string): string {
  return `${count(number)} ${word}${number === 1 ? '' : 's'}`;
}

/** A number with so many figures that something is seen of it. */
export function significant(value: number, figuresWanted = 5): string {
  if (!Number.isFinite(value)) return NOTHING;
  return value === 0 ? '0' : fixed(value, significantDecimals(value, figuresWanted));
}

/** Decimals with which a number other than 0 shows so many figures: two at least. */
export function significantDecimals(value: number, figuresWanted: number): number {
  return Math.min(12, Math.max(2, figuresWanted - 1 - Math.floor(Math.log10(Math.abs(value)))));
}
