import {
  FIT_NUMBERS,
  mapFields,
  namesOf,
  orNaN,
  type ExpiryFit,
  type MarketTerms,
  type SideQuotes,
  type SideValues,
  type SideVols,
  type SliceQuotes,
} from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';

type Answer = z.infer<typeof schemas.SnapshotResponse>;
export type Summary = z.infer<typeof schemas.SnapshotSummary>;

/** An expiry of a snapshot with its fit. */
export interface FittedSlice extends SliceQuotes {
  fit: ExpiryFit;
}

/** A snapshot as the page holds it: columns of doubles, NaN for what there is not. */
export interface LoadedSnapshot {
  symbol: string;
  /** As the server writes it; also the name of the snapshot. */
  asof: string;
  instant: number;
  kind: MarketTerms['kind'];
  exercise: MarketTerms['exercise'];
  price: number;
  measures: Summary;
  slices: FittedSlice[];
}

/** Both sides of an expiry under a basis, with the vols of its quotes. */
export interface ValuedSlice {
  call: SideValues;
  put: SideValues;
  callVols: SideVols;
  putVols: SideVols;
}

const column = (values: readonly (number | null)[]) => Float64Array.from(values, orNaN);

function sideOfAnswer(side: Answer['slices'][number]['call']): SideQuotes {
  return {
    bid: column(side.bid),
    ask: column(side.ask),
    bidSize: column(side.bidSize),
    askSize: column(side.askSize),
    last: column(side.last),
    volume: column(side.volume),
    openInterest: column(side.openInterest),
  };
}

const FIT_NAMES = namesOf(FIT_NUMBERS);

function fitOfAnswer(fit: Answer['slices'][number]['fit']): ExpiryFit {
  return { ...fit, ...mapFields(fit, FIT_NAMES, orNaN) };
}

/** A snapshot of the API as columns. */
export function snapshotOfAnswer(answer: Answer): LoadedSnapshot {
  return {
    symbol: answer.symbol,
    asof: answer.asof,
    instant: Date.parse(answer.asof),
    kind: answer.kind,
    exercise: answer.exercise,
    price: orNaN(answer.price),
    measures: answer.measures,
    slices: answer.slices.map((slice) => ({
      expiry: slice.fit.expiry,
      settlement: slice.fit.settlement,
      strike: Float64Array.from(slice.strike),
      call: sideOfAnswer(slice.call),
      put: sideOfAnswer(slice.put),
      fit: fitOfAnswer(slice.fit),
    })),
  };
}
