import type { ExpiryFit, SnapshotMeasures } from './types';

/** Names of the fields of a type that are numbers. */
type NumberOf<T> = { [Name in keyof T]-?: T[Name] extends number ? Name & string : never }[keyof T];

/**
 * Numbers of a fit that need not exist, each with what it is: NaN in the core, null where they are stored and sent. What
 * stores, sends, films and borrows fits goes through these tables, so that a number is added in one place.
 */
export const FIT_NUMBERS = {
  forward: 'by put–call parity, or spot and carry',
  forwardUncertainty: 'one standard error, in price units',
  rmse: 'fit error, a decimal vol',
  errorInHalfSpreads: 'fit error over half the bid–ask spread, in vols',
  atmVol: 'the curve at the forward',
  atmVolUncertainty: 'one standard error, as the quotes let it be known',
  riskReversal25: '25-delta call less put; none for a curve that says one vol only',
  riskReversal25Uncertainty: 'one standard error',
  butterfly25: 'middle of the 25-delta vols over the one at the forward',
  riskReversal10: '10-delta call less put',
  butterfly10: 'middle of the 10-delta vols over the one at the forward',
  straddleMove: 'the straddle at the forward, in money',
  straddleUncertainty: 'one standard error, in money',
  deviationMove: 'one deviation by the vol at the forward, in money',
  quality: '0…100',
} as const satisfies Partial<Record<NumberOf<ExpiryFit>, string>>;
export type FitNumber = keyof typeof FIT_NUMBERS;

/** Those that follow from the curve alone, its own or a borrowed one. */
export const CURVE_NUMBERS = [
  'atmVol',
  'riskReversal25',
  'butterfly25',
  'riskReversal10',
  'butterfly10',
  'deviationMove',
] as const satisfies readonly FitNumber[];
export type CurveNumber = (typeof CURVE_NUMBERS)[number];

/** Those that are known of an expiry over time, without its quotes. */
export const PAST_NUMBERS = ['forward', ...CURVE_NUMBERS, 'straddleMove'] as const satisfies readonly FitNumber[];

/** Numbers of the measures of an underlying at one moment that need not exist, each with what it is. */
export const MEASURE_NUMBERS = {
  price: 'as quoted; without a quote the front forward discounted',
  iv7: 'vol at the forward at 7 days',
  iv30: 'vol at the forward at 30 days',
  iv30Uncertainty: 'one standard error, as the quotes let it be known; so are the others',
  iv60: 'vol at the forward at 60 days',
  iv90: 'vol at the forward at 90 days',
  iv180: 'vol at the forward at 180 days',
  iv360: 'vol at the forward at 360 days',
  varianceIndex: '30 days, by the strip of options, in per cent as it is published',
  riskReversal25: 'call less put, 25 delta at 30 days',
  riskReversal25Uncertainty: 'one standard error',
  butterfly25: 'their middle over iv30',
  riskReversal10: 'call less put, 10 delta at 30 days',
  butterfly10: 'their middle over iv30',
  termSlope: 'iv90 less iv30',
  frontStraddleMove: 'of the first expiry, by the straddle at the forward',
  frontStraddleUncertainty: 'one standard error, in money',
  frontDeviationMove: 'one deviation to the first expiry, in money',
  volume: 'options traded in the session',
  putVolume: 'puts among them',
  openInterest: 'options open',
  putOpenInterest: 'puts among them',
  rmse: 'fit error over all expiries, a decimal vol',
  quality: '0…100',
} as const satisfies Partial<Record<NumberOf<SnapshotMeasures>, string>>;
export type MeasureNumber = keyof typeof MEASURE_NUMBERS;

/** The names of a table of numbers, in its order. */
export function namesOf<Name extends string>(table: Readonly<Record<Name, string>>): Name[] {
  return Object.keys(table) as Name[];
}

/** Some fields of an object. */
export function pickFields<T extends object, Name extends keyof T>(from: T, names: readonly Name[]): Pick<T, Name> {
  const into = {} as Pick<T, Name>;
  for (const name of names) into[name] = from[name];
  return into;
}

/** Some fields of an object, each through a function. */
export function mapFields<Name extends string, From, To>(
  from: Readonly<Record<Name, From>>,
  names: readonly Name[],
  map: (value: From) => To,
): Record<Name, To> {
  const into = {} as Record<Name, To>;
  for (const name of names) into[name] = map(from[name]);
  return into;
}

/** A number as it is stored and sent: null where it does not exist. */
export function orNull(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}

/** A number that was stored or sent: NaN where it does not exist. */
export function orNaN(value: number | null | undefined): number {
  return value ?? NaN;
}
