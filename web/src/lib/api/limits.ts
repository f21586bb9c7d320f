/** Symbols of underlyings: lists of them are separated by commas. */
const SYMBOL = /^(?!\s)[^,\p{C}]{1,32}(?<!\s)$/u;
export const isSymbol = (text: string) => SYMBOL.test(text);
export const SYMBOL_RULE = 'must have 1 to 32 characters, none of them a comma or without a shape';

/** The years that days and moments may lie in: none of a market that is held is out of them, and each month is a table. */
export const FIRST_YEAR = 1990;
export const LAST_YEAR = 2100;
export const isYear = (year: number) => year >= FIRST_YEAR && year <= LAST_YEAR;

/** Legs of a structure; more are a book. */
export const MOST_LEGS = 12;
