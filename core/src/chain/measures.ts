import type { Side } from '../contracts/contract';
import { DAYS_PER_YEAR } from '../models';
import {
  constantMaturityVol,
  maturityMeasures,
  maturityShares,
  varianceIndex,
  type Curve,
  type TimedStrip,
} from '../surface';
import { MINUTES_PER_YEAR } from '../time';
import type { ExpiryFit, OpenSlice, Snapshot, SnapshotMeasures } from './types';

/**
 * Measures of an underlying by its expiries; those that are set aside say nothing.
 *
 * @param opened with their strips
 * @param expiries in the order of time
 */
export function measureSnapshot(
  snapshot: Snapshot,
  opened: readonly OpenSlice[],
  expiries: readonly ExpiryFit[],
): SnapshotMeasures {
  const fitted = expiries.filter(
    (fit): fit is ExpiryFit & { curve: Curve } => fit.curve !== null && fit.years > 0 && fit.expiryAside === null,
  );
  const vols = fitted.map(({ years, atmVol }) => ({ years, vol: atmVol }));
  const atm = (days: number) => constantMaturityVol(vols, days / DAYS_PER_YEAR);
  const front = fitted[0];
  const iv30 = atm(30);
  const iv90 = atm(90);
  const total = (side: Side, what: 'volume' | 'openInterest') =>
    snapshot.slices.reduce((sum, slice) => sum + sumOf(slice[side][what]), 0);
  const putVolume = total('put', 'volume');
  const putOpenInterest = total('put', 'openInterest');
  const wings = maturityMeasures(fitted, 30 / DAYS_PER_YEAR);
  const uncertain = (of: (fit: ExpiryFit) => number, among: readonly ExpiryFit[] = fitted) =>
    Math.hypot(...maturityShares(among, 30 / DAYS_PER_YEAR).map((share, i) => (share > 0 ? share * of(among[i]!) : 0)));
  const points = fitted.reduce((sum, fit) => sum + fit.usable, 0);
  const squares = fitted.reduce((sum, fit) => sum + fit.usable * fit.rmse ** 2, 0);
  return {
    price: Number.isFinite(snapshot.price) || !front ? snapshot.price : front.forward * front.discount,
    iv7: atm(7),
    iv30,
    iv30Uncertainty: front ? uncertain((fit) => fit.atmVolUncertainty) : NaN,
    iv60: atm(60),
    iv90,
    iv180: atm(180),
    iv360: atm(360),
    varianceIndex: varianceIndex(opened.flatMap(stripOf)),
    riskReversal25: wings.riskReversal25,
    riskReversal25Uncertainty: Number.isFinite(wings.riskReversal25)
      ? uncertain(
          (fit) => fit.riskReversal25Uncertainty,
          fitted.filter(({ riskReversal25 }) => Number.isFinite(riskReversal25)),
        )
      : NaN,
    butterfly25: wings.butterfly25,
    riskReversal10: wings.riskReversal10,
    butterfly10: wings.butterfly10,
    termSlope: iv90 - iv30,
    frontExpiry: front?.expiry ?? null,
    frontStraddleMove: front?.straddleMove ?? NaN,
    frontStraddleUncertainty: front?.straddleUncertainty ?? NaN,
    frontDeviationMove: front?.deviationMove ?? NaN,
    contracts: expiries.reduce((sum, fit) => sum + fit.contracts, 0),
    usable: expiries.reduce((sum, fit) => sum + fit.usable, 0),
    volume: total('call', 'volume') + putVolume,
    putVolume,
    openInterest: total('call', 'openInterest') + putOpenInterest,
    putOpenInterest,
    rmse: points > 0 ? Math.sqrt(squares / points) : NaN,
    quality: weightedQuality(expiries),
  };
}

/** The strip of an expiry that is used; none where it has too few strikes. */
function stripOf({ base, strip }: OpenSlice): TimedStrip[] {
  if (!strip || base.expiryAside !== null) return [];
  return [{ minutes: base.years * MINUTES_PER_YEAR, variance: strip.variance }];
}

function sumOf(values: Float64Array): number {
  let sum = 0;
  for (const value of values) if (Number.isFinite(value)) sum += value;
  return sum;
}

function weightedQuality(expiries: readonly ExpiryFit[]): number {
  let sum = 0;
  let contracts = 0;
  for (const fit of expiries) {
    contracts += fit.contracts;
    if (fit.expiryAside === null) sum += fit.contracts * fit.quality;
  }
  return contracts > 0 ? sum / contracts : NaN;
}
