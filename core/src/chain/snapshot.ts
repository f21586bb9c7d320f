import type { ExpiryId } from '../contracts';
import type { RateCurve } from '../rates';
import type { Calendar } from '../time';

/** Quotes of one side of an expiry, one array per field, aligned with the strikes; NaN for none. */
export interface SideQuotes {
  readonly bid: Float64Array;
  readonly ask: Float64Array;
  readonly bidSize: Float64Array;
  readonly askSize: Float64Array;
  readonly last: Float64Array;
  readonly volume: Float64Array;
  readonly openInterest: Float64Array;
}

/** All quotes of one expiry at one moment, strikes ascending. */
export interface SliceQuotes extends ExpiryId {
  readonly strike: Float64Array;
  readonly call: SideQuotes;
  readonly put: SideQuotes;
}

/** One underlying at one moment. */
export interface Snapshot {
  readonly symbol: string;
  /** Milliseconds, UTC. */
  readonly asof: number;
  /** Price of the underlying; NaN when the file did not have it. */
  readonly price: number;
  readonly slices: readonly SliceQuotes[];
}

/** A cash dividend per unit of the underlying, by the day from which the price is without it. */
export interface DividendPayment {
  readonly exDate: string;
  readonly amount: number;
}

/** What is known beside the quotes when a snapshot is computed. */
export interface MarketTerms {
  readonly kind: 'index' | 'etf' | 'equity' | 'future' | 'fx';
  readonly exercise: 'european' | 'american';
  readonly calendar: Calendar;
  readonly rates: RateCurve;
  readonly dividends: readonly DividendPayment[];
}

/** What contracts are written on, and when they can be exercised. */
export interface WrittenOn {
  readonly kind: MarketTerms['kind'];
  readonly exercise: 'european' | 'american';
  /** Price of the underlying; NaN where it is not known. */
  readonly spot: number;
}

/** What the contracts of a snapshot are written on. */
export function writtenOn(
  { price }: Pick<Snapshot, 'price'>,
  { kind, exercise }: Pick<MarketTerms, 'kind' | 'exercise'>,
): WrittenOn {
  return { kind, exercise, spot: price };
}

/** A side without any quote, to be filled in. */
export function emptySide(length: number): SideQuotes {
  const column = () => new Float64Array(length).fill(NaN);
  return {
    bid: column(),
    ask: column(),
    bidSize: column(),
    askSize: column(),
    last: column(),
    volume: column(),
    openInterest: column(),
  };
}

/** The quotes of a side. */
export function sideOf(slice: SliceQuotes, side: 'call' | 'put'): SideQuotes {
  return side === 'call' ? slice.call : slice.put;
}
