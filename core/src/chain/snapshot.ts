import type { Side } from '../contracts';
import type { MarketTerms, SideQuotes, SliceQuotes, Snapshot, WrittenOn } from './types';

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
export function sideOf(slice: SliceQuotes, side: Side): SideQuotes {
  return side === 'call' ? slice.call : slice.put;
}
