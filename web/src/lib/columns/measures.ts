import { ESTIMATOR_CODES, ESTIMATORS, namedVol, VOL_WINDOWS, type Measure, type MeasureNumber } from '@umwelt/core';

/** A measure of the store that formulas may name, with the column that it stands in. */
export interface StoredMeasure extends Measure {
  column: Exclude<MeasureNumber, 'rmse'> | 'contracts' | 'usable';
  /** What the column is divided by: the index is published in per cent. */
  per?: number;
}

const vol = { vol: 1 };
const money = { price: 1 };
const count = { count: 1 };

/** Measures of the session's last moment. Vols are decimals: 20 % is 0.2. */
export const STORED_MEASURES: readonly StoredMeasure[] = [
  { name: 'price', column: 'price', unit: money, title: 'price of the underlying' },
  { name: 'iv7', column: 'iv7', unit: vol, title: 'vol at the money at 7 days' },
  { name: 'iv30', column: 'iv30', unit: vol, title: 'vol at the money at 30 days' },
  {
    name: 'iv30error',
    column: 'iv30Uncertainty',
    unit: vol,
    title: 'one standard error of iv30, as far as the quotes tell',
  },
  { name: 'iv60', column: 'iv60', unit: vol, title: 'vol at the money at 60 days' },
  { name: 'iv90', column: 'iv90', unit: vol, title: 'vol at the money at 90 days' },
  { name: 'iv180', column: 'iv180', unit: vol, title: 'vol at the money at 180 days' },
  { name: 'iv360', column: 'iv360', unit: vol, title: 'vol at the money at 360 days' },
  { name: 'index', column: 'varianceIndex', unit: vol, per: 100, title: 'variance index by the strip, 30 days' },
  { name: 'rr25', column: 'riskReversal25', unit: vol, title: '25-delta call less put at 30 days' },
  { name: 'rr25error', column: 'riskReversal25Uncertainty', unit: vol, title: 'one standard error of rr25' },
  { name: 'bf25', column: 'butterfly25', unit: vol, title: '25-delta wings over the middle at 30 days' },
  { name: 'rr10', column: 'riskReversal10', unit: vol, title: '10-delta call less put at 30 days' },
  { name: 'bf10', column: 'butterfly10', unit: vol, title: '10-delta wings over the middle at 30 days' },
  { name: 'slope', column: 'termSlope', unit: vol, title: '90-day less 30-day vol' },
  { name: 'move', column: 'frontStraddleMove', unit: money, title: 'straddle at the forward of the first expiry' },
  { name: 'moveerror', column: 'frontStraddleUncertainty', unit: money, title: 'one standard error of move' },
  { name: 'deviation', column: 'frontDeviationMove', unit: money, title: 'one deviation to the first expiry' },
  { name: 'volume', column: 'volume', unit: count, title: 'options traded in the session' },
  { name: 'putvolume', column: 'putVolume', unit: count, title: 'puts traded in the session' },
  { name: 'oi', column: 'openInterest', unit: count, title: 'options open' },
  { name: 'putoi', column: 'putOpenInterest', unit: count, title: 'puts open' },
  { name: 'contracts', column: 'contracts', unit: count, title: 'contracts quoted' },
  { name: 'usable', column: 'usable', unit: count, title: 'contracts that can be used' },
  { name: 'quality', column: 'quality', unit: {}, title: 'of the quotes, 0 to 100' },
];

/** Measures that are computed of what is held beside them. */
export const WORKED_OUT_MEASURES: readonly Measure[] = [
  { name: 'before', unit: money, title: 'close of the session before' },
  { name: 'front', unit: { day: 1 }, title: 'days to the first expiry' },
  { name: 'event', unit: { day: 1 }, title: 'days to the next announcement' },
  { name: 'exdate', unit: { day: 1 }, title: 'days to the next dividend' },
];

const volMeasure = (name: string, estimator: string, window: number): Measure => ({
  name,
  unit: vol,
  title: `historical vol over ${window} sessions, ${estimator}`,
});

/** A measure by its name: one of the store, or computed, or a historical vol of any window. */
export function measureNamed(name: string): Measure | null {
  const plain = [...STORED_MEASURES, ...WORKED_OUT_MEASURES].find((one) => one.name === name);
  if (plain) return plain;
  const found = namedVol(name);
  return found && found.window <= MOST_WINDOW ? volMeasure(name, found.estimator, found.window) : null;
}

/** Sessions of a historical vol at most. */
export const MOST_WINDOW = 504;

/** What is offered to somebody who writes a formula. */
export const OFFERED_MEASURES: readonly Measure[] = [
  ...STORED_MEASURES,
  ...WORKED_OUT_MEASURES,
  ...ESTIMATORS.flatMap((estimator) =>
    VOL_WINDOWS.map((window) => volMeasure(`hv${window}.${ESTIMATOR_CODES[estimator]}`, estimator, window)),
  ),
];
