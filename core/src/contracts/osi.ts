import type { Side } from './contract';
/** What a contract symbol says. */
export interface ContractTerms {
  /** Symbol of the underlying. */
  symbol: string;
  /** Expiry as an ISO date. */
  expiry: string;
  side: Side;
  strike: number;
}

const LENGTH = 21;
const ROOT = 6;
const PATTERN = /^([A-Z0-9][A-Z0-9 ]{5})(\d\d)(\d\d)(\d\d)([CP])(\d{8})$/;
/** The symbol has two digits of the year; all of them are of this century. */
const CENTURY = 2000;

/**
 * Reads a contract symbol in the 21-character form of the Options Symbology Initiative (2010): root padded to six
 * characters, yymmdd, C or P, strike × 1000 in eight digits.
 *
 * @returns null for anything else, dates that do not exist and a strike of zero included
 * @example parseContractSymbol('MRX40 310320C04200000').strike // 4200
 */
export function parseContractSymbol(text: string): ContractTerms | null {
  const match = text.length === LENGTH ? PATTERN.exec(text) : null;
  if (!match) return null;
  const [, root, year, month, day, side, strike] = match as unknown as [
    string,
    string,
    string,
    string,
    string,
    string,
    string,
  ];
  const symbol = root.trimEnd();
  const expiry = `${CENTURY + Number(year)}-${month}-${day}`;
  const date = new Date(`${expiry}T00:00:00Z`);
  const exists = !Number.isNaN(date.getTime()) && date.toISOString().slice(0, 10) === expiry;
  if (!exists || symbol.includes(' ') || Number(strike) === 0) return null;
  return { symbol, expiry, side: side === 'C' ? 'call' : 'put', strike: Number(strike) / 1000 };
}

/**
 * Writes a contract symbol in the same form.
 *
 * @returns null for what the form cannot hold: a root of more than six characters, a year outside 2000…2099, a strike
 *   with more than three decimals or over 99 999.999
 */
export function contractSymbol({ symbol, expiry, side, strike }: ContractTerms): string | null {
  const thousandths = Math.round(strike * 1000);
  const isExact = Math.abs(thousandths - strike * 1000) < 1e-6 && thousandths > 0 && thousandths < 1e8;
  if (!/^[A-Z0-9]{1,6}$/.test(symbol) || !/^20\d\d-\d\d-\d\d$/.test(expiry) || !isExact) return null;
  return [
    symbol.padEnd(ROOT),
    expiry.slice(2).replaceAll('-', ''),
    side === 'call' ? 'C' : 'P',
    String(thousandths).padStart(8, '0'),
  ].join('');
}
