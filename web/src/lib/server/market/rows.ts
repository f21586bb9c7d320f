import { orNull } from '../numbers';
import { METHOD_VERSION, type ExpiryFit, type SliceQuotes, type SnapshotMeasures } from '@umwelt/core';
import type { tables } from '../db';

type SliceRow = typeof tables.slices.$inferSelect;
type FitRow = typeof tables.fits.$inferSelect;
type MeasureRow = typeof tables.measures.$inferSelect;

const orNaN = (value: number | null) => value ?? NaN;

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
    years: fit.years,
    days: fit.days,
    sessions: fit.sessions,
    rate: fit.rate,
    discount: fit.discount,
    forward: orNull(fit.forward),
    forwardSource: fit.forwardSource,
    forwardUncertainty: orNull(fit.forwardUncertainty),
    curveKind: curve?.kind ?? null,
    curve: curve ? Float64Array.from(curve.parameters) : null,
    curveShape: fit.shape,
    rmse: orNull(fit.rmse),
    errorInHalfSpreads: orNull(fit.errorInHalfSpreads),
    atmVol: orNull(fit.atmVol),
    atmVolUncertainty: orNull(fit.atmVolUncertainty),
    riskReversal25: orNull(fit.riskReversal25),
    riskReversal25Uncertainty: orNull(fit.riskReversal25Uncertainty),
    butterfly25: orNull(fit.butterfly25),
    riskReversal10: orNull(fit.riskReversal10),
    butterfly10: orNull(fit.butterfly10),
    straddleMove: orNull(fit.straddleMove),
    straddleUncertainty: orNull(fit.straddleUncertainty),
    deviationMove: orNull(fit.deviationMove),
    contracts: fit.contracts,
    usable: fit.usable,
    refused: fit.refused,
    aside: fit.aside,
    expiryAside: fit.expiryAside,
    quality: orNull(fit.quality),
    qualityParts: fit.qualityParts,
    method: METHOD_VERSION,
  };
}

/** A stored fit as the core takes it. */
export function fitOfRow(row: FitRow): ExpiryFit {
  const { curveKind: kind, curve: parameters } = row;
  return {
    expiry: row.expiry,
    settlement: row.settlement,
    years: row.years,
    days: row.days,
    sessions: row.sessions,
    rate: row.rate,
    discount: row.discount,
    forward: orNaN(row.forward),
    forwardSource: row.forwardSource,
    forwardUncertainty: orNaN(row.forwardUncertainty),
    curve:
      kind && parameters ? { kind, years: row.years, forward: orNaN(row.forward), parameters: [...parameters] } : null,
    shape: row.curveShape,
    rmse: orNaN(row.rmse),
    errorInHalfSpreads: orNaN(row.errorInHalfSpreads),
    atmVol: orNaN(row.atmVol),
    atmVolUncertainty: orNaN(row.atmVolUncertainty),
    riskReversal25: orNaN(row.riskReversal25),
    riskReversal25Uncertainty: orNaN(row.riskReversal25Uncertainty),
    butterfly25: orNaN(row.butterfly25),
    riskReversal10: orNaN(row.riskReversal10),
    butterfly10: orNaN(row.butterfly10),
    straddleMove: orNaN(row.straddleMove),
    straddleUncertainty: orNaN(row.straddleUncertainty),
    deviationMove: orNaN(row.deviationMove),
    contracts: row.contracts,
    usable: row.usable,
    refused: row.refused,
    aside: row.aside,
    expiryAside: row.expiryAside,
    quality: orNaN(row.quality),
    qualityParts: row.qualityParts ?? { usable: 0, spread: 0, fit: 0, coverage: 0, fresh: 0 },
  };
}

/** Measures as they are stored: what does not exist is null. */
export function measureRow(key: SnapshotKey, measures: SnapshotMeasures): MeasureRow {
  return {
    symbol: key.symbol,
    asof: key.asof,
    price: orNull(measures.price),
    iv7: orNull(measures.iv7),
    iv30: orNull(measures.iv30),
    iv30Uncertainty: orNull(measures.iv30Uncertainty),
    iv60: orNull(measures.iv60),
    iv90: orNull(measures.iv90),
    iv180: orNull(measures.iv180),
    iv360: orNull(measures.iv360),
    varianceIndex: orNull(measures.varianceIndex),
    riskReversal25: orNull(measures.riskReversal25),
    riskReversal25Uncertainty: orNull(measures.riskReversal25Uncertainty),
    butterfly25: orNull(measures.butterfly25),
    riskReversal10: orNull(measures.riskReversal10),
    butterfly10: orNull(measures.butterfly10),
    termSlope: orNull(measures.termSlope),
    frontExpiry: measures.frontExpiry,
    frontStraddleMove: orNull(measures.frontStraddleMove),
    frontStraddleUncertainty: orNull(measures.frontStraddleUncertainty),
    frontDeviationMove: orNull(measures.frontDeviationMove),
    contracts: measures.contracts,
    usable: measures.usable,
    volume: orNull(measures.volume),
    putVolume: orNull(measures.putVolume),
    openInterest: orNull(measures.openInterest),
    putOpenInterest: orNull(measures.putOpenInterest),
    rmse: orNull(measures.rmse),
    quality: orNull(measures.quality),
    method: METHOD_VERSION,
  };
}
