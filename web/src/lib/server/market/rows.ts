import {
  expiryName,
  FIT_NUMBERS,
  mapFields,
  MEASURE_NUMBERS,
  METHOD_VERSION,
  namesOf,
  orNaN,
  orNull,
  type Curve,
  type CurveKind,
  type ExpiryFit,
  type ListedSlice,
  type SliceQuotes,
  type Snapshot,
  type SnapshotMeasures,
} from '@umwelt/core';
import type { tables } from '../db';

type SliceRow = typeof tables.slices.$inferSelect;
type FitRow = typeof tables.fits.$inferSelect;
type MeasureRow = typeof tables.measures.$inferSelect;

const FIT_NAMES = namesOf(FIT_NUMBERS);
const MEASURE_NAMES = namesOf(MEASURE_NUMBERS);

/** Where a row belongs. */
export interface SnapshotKey {
  symbol: string;
  asof: Date;
}

/** A slice as it is stored. */
export function sliceRow(key: SnapshotKey, { expiry, settlement, strike, call, put }: SliceQuotes): SliceRow {
  return {
    symbol: key.symbol,
    asof: key.asof,
    expiry,
    settlement,
    strike,
    callBid: call.bid,
    callAsk: call.ask,
    callBidSize: call.bidSize,
    callAskSize: call.askSize,
    callLast: call.last,
    callVolume: call.volume,
    callOpenInterest: call.openInterest,
    putBid: put.bid,
    putAsk: put.ask,
    putBidSize: put.bidSize,
    putAskSize: put.askSize,
    putLast: put.last,
    putVolume: put.volume,
    putOpenInterest: put.openInterest,
  };
}

/** A stored slice as the core takes it. */
export function sliceOfRow(row: SliceRow): SliceQuotes {
  return {
    expiry: row.expiry,
    settlement: row.settlement,
    strike: row.strike,
    call: {
      bid: row.callBid,
      ask: row.callAsk,
      bidSize: row.callBidSize,
      askSize: row.callAskSize,
      last: row.callLast,
      volume: row.callVolume,
      openInterest: row.callOpenInterest,
    },
    put: {
      bid: row.putBid,
      ask: row.putAsk,
      bidSize: row.putBidSize,
      askSize: row.putAskSize,
      last: row.putLast,
      volume: row.putVolume,
      openInterest: row.putOpenInterest,
    },
  };
}

/** A fit as it is stored: what does not exist is null. */
export function fitRow(key: SnapshotKey, fit: ExpiryFit): FitRow {
  const { curve } = fit;
  if (curve?.kind === 'borrowed') throw new TypeError('what is stored is the curve of its own quotes');
  return {
    symbol: key.symbol,
    asof: key.asof,
    expiry: fit.expiry,
    settlement: fit.settlement,
    ...mapFields(fit, FIT_NAMES, orNull),
    years: fit.years,
    days: fit.days,
    sessions: fit.sessions,
    rate: fit.rate,
    discount: fit.discount,
    forwardSource: fit.forwardSource,
    curveKind: curve?.kind ?? null,
    curve: curve ? Float64Array.from(curve.parameters) : null,
    curveShape: fit.shape,
    contracts: fit.contracts,
    usable: fit.usable,
    refused: fit.refused,
    aside: fit.aside,
    expiryAside: fit.expiryAside,
    qualityParts: fit.qualityParts,
    method: METHOD_VERSION,
  };
}

/** A stored curve as the core takes it; null where none was fitted. */
export function curveOfRow(
  row: Pick<FitRow, 'curve' | 'years' | 'forward'> & { curveKind: CurveKind | null },
): Curve | null {
  const { curveKind: kind, curve: parameters, years, forward } = row;
  return kind && parameters ? { kind, years, forward: orNaN(forward), parameters: [...parameters] } : null;
}

/** A stored fit as the core takes it. */
export function fitOfRow(row: FitRow): ExpiryFit {
  return {
    expiry: row.expiry,
    settlement: row.settlement,
    ...mapFields(row, FIT_NAMES, orNaN),
    years: row.years,
    days: row.days,
    sessions: row.sessions,
    rate: row.rate,
    discount: row.discount,
    forwardSource: row.forwardSource,
    curve: curveOfRow(row),
    shape: row.curveShape,
    contracts: row.contracts,
    usable: row.usable,
    refused: row.refused,
    aside: row.aside,
    expiryAside: row.expiryAside,
    qualityParts: row.qualityParts ?? { usable: 0, spread: 0, fit: 0, coverage: 0, fresh: 0 },
  };
}

/** Measures as they are stored: what does not exist is null. */
export function measureRow(key: SnapshotKey, measures: SnapshotMeasures): MeasureRow {
  return {
    symbol: key.symbol,
    asof: key.asof,
    ...mapFields(measures, MEASURE_NAMES, orNull),
    frontExpiry: measures.frontExpiry,
    contracts: measures.contracts,
    usable: measures.usable,
    method: METHOD_VERSION,
  };
}

/** The slices of a snapshot with their fits; one without is left out. */
export function fittedSlices({
  snapshot,
  fits,
}: {
  readonly snapshot: Pick<Snapshot, 'slices'>;
  readonly fits: readonly ExpiryFit[];
}): ListedSlice[] {
  const fitOf = new Map(fits.map((fit) => [expiryName(fit), fit]));
  return snapshot.slices.flatMap((slice) => {
    const fit = fitOf.get(expiryName(slice));
    return fit ? [{ ...slice, fit }] : [];
  });
}
