/** Types of the chain: what is known of quotes, what is derived of them, and the steps in between. */
import type { ExpiryId } from '../contracts';
import type { Exercise } from '../models';
import type { StraddleUsed } from '../odds';
import type { Aside, QualityParts, Exclusion } from '../quality';
import type { RateCurve } from '../rates';
import type { BorrowTerms, Curve, CurveFit, CurveShape, FitPoints, Strip } from '../surface';
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

/** Kinds of underlyings. */
export const UNDERLYING_KINDS = ['index', 'etf', 'equity', 'future', 'fx'] as const;
export type UnderlyingKind = (typeof UNDERLYING_KINDS)[number];

/** What is known beside the quotes when a snapshot is computed. */
export interface MarketTerms {
  readonly kind: UnderlyingKind;
  readonly exercise: Exercise;
  readonly calendar: Calendar;
  readonly rates: RateCurve;
  readonly dividends: readonly DividendPayment[];
}

/** What contracts are written on, and when they can be exercised. */
export interface WrittenOn {
  readonly kind: UnderlyingKind;
  readonly exercise: Exercise;
  /** Price of the underlying; NaN where it is not known. */
  readonly spot: number;
}

/** Where the curve of an expiry is taken from. */
export interface Borrowing extends BorrowTerms {
  /** Symbol of the underlying. */
  source: string;
  /** The name of its expiry; null for the nearest in time. */
  sourceExpiry: string | null;
  /** Of what is kept, where somebody keeps it. */
  version?: number;
}

/** What is said of a curve that is borrowed. */
export interface BorrowedFrom extends Borrowing {
  /** The name of the expiry that it is taken from at this moment. */
  takenFrom: string;
  isArbitrageFree: boolean;
}

export type ForwardSource = 'parity' | 'carry';
/** Why a whole expiry is not used in the measures of its underlying. */
export const EXPIRY_ASIDES = ['broken-forward', 'off-term', 'by-hand'] as const;
export type ExpiryAside = (typeof EXPIRY_ASIDES)[number];

/** What is computed of one expiry. Vols, rates and probabilities are decimals; NaN where not available. */
export interface ExpiryFit extends ExpiryId {
  years: number;
  /** Calendar days, fractions included. */
  days: number;
  sessions: number;
  rate: number;
  discount: number;
  forward: number;
  forwardSource: ForwardSource;
  /** One standard error, in price units. */
  forwardUncertainty: number;
  /** null when no strike could be used. */
  curve: Curve | null;
  /** Where the shape of the curve comes from. */
  shape: CurveShape;
  rmse: number;
  errorInHalfSpreads: number;
  atmVol: number;
  /** One standard error of the vol at the forward, and of the risk reversal, as the quotes let them be known. */
  atmVolUncertainty: number;
  /** NaN for a curve that says one vol only. */
  riskReversal25: number;
  riskReversal25Uncertainty: number;
  butterfly25: number;
  riskReversal10: number;
  butterfly10: number;
  /** The straddle at the forward, in money, and one standard error of it. */
  straddleMove: number;
  straddleUncertainty: number;
  deviationMove: number;
  contracts: number;
  usable: number;
  /** Contracts by reason, in the order of REASONS. */
  refused: number[];
  /** Contracts with a vol that are not used. */
  aside: Aside[];
  /** null for an expiry that is used. */
  expiryAside: ExpiryAside | null;
  /** 0…100, and what it is made of. */
  quality: number;
  qualityParts: QualityParts;
  /** Where the curve is taken from, when it is not its own. */
  borrowed?: BorrowedFrom | undefined;
}

/** What of a fit the next session remembers. */
export type PastExpiry = Pick<
  ExpiryFit,
  | 'expiry'
  | 'settlement'
  | 'years'
  | 'rate'
  | 'forward'
  | 'forwardSource'
  | 'forwardUncertainty'
  | 'curve'
  | 'shape'
  | 'expiryAside'
>;

/** The last snapshot of the session before, and what was derived from it. */
export interface PastSession {
  readonly snapshot: Snapshot;
  readonly expiries: readonly PastExpiry[];
}

/** An expiry of a snapshot before its forward is known. */
export interface SliceTime {
  readonly slice: SliceQuotes;
  readonly years: number;
  /** Calendar days, fractions included. */
  readonly days: number;
  readonly rate: number;
  readonly discount: number;
  /** Spot less dividends, at the rate. */
  readonly carry: number;
}

/** What is known beside a snapshot and the terms of its market. */
export interface SnapshotContext {
  /** The session before: a quote that stood still is known by it, and what today cannot tell is taken from it. */
  readonly before?: PastSession | null;
  /** What somebody has decided about this snapshot's contracts and expiries. */
  readonly exclusions?: readonly Exclusion[];
}

/** Implied vols of a side and why a contract has none, aligned with the strikes. */
export interface SideVols {
  readonly bid: Float64Array;
  readonly mid: Float64Array;
  readonly ask: Float64Array;
  /** Codes of REASONS; 0 is usable. */
  readonly reason: Uint8Array;
}

/** The forward of an expiry. */
export type Forward = Pick<ExpiryFit, 'years' | 'forward' | 'rate' | 'discount'>;

/** A forward with where it comes from, and one standard error. */
export interface FoundForward {
  readonly forward: number;
  readonly source: ForwardSource;
  readonly uncertainty: number;
}

/** What the quotes of an expiry say without a curve. */
export interface QuotesRead {
  readonly counts: Pick<ExpiryFit, 'contracts' | 'usable' | 'refused' | 'straddleMove'>;
  readonly stale: number;
  /** Spread over mid near the money. */
  readonly spread: number;
  readonly straddle: StraddleUsed | null;
  readonly strip: Strip | null;
}

/** An expiry before its curve is compared with those of the others. */
export interface OpenSlice extends Omit<QuotesRead, 'counts'> {
  readonly base: Omit<ExpiryFit, CurveMeasures>;
  readonly points: FitPoints;
  readonly fitted: CurveFit | null;
  readonly shape: CurveShape;
}

/** What depends on the curve. */
type CurveMeasures =
  | 'curve'
  | 'shape'
  | 'rmse'
  | 'errorInHalfSpreads'
  | 'atmVol'
  | 'atmVolUncertainty'
  | 'riskReversal25'
  | 'riskReversal25Uncertainty'
  | 'butterfly25'
  | 'riskReversal10'
  | 'butterfly10'
  | 'straddleUncertainty'
  | 'deviationMove'
  | 'quality'
  | 'qualityParts';

/** Measures of an underlying at one moment, from its expiries. */
export interface SnapshotMeasures {
  /** As quoted; without a quote the front forward discounted. */
  price: number;
  /** Constant-maturity vols at the forward. */
  iv7: number;
  iv30: number;
  /** One standard error, as the quotes let it be known; so are those below. */
  iv30Uncertainty: number;
  iv60: number;
  iv90: number;
  iv180: number;
  iv360: number;
  /** The 30-day variance index by the strip of options, in per cent as it is published. */
  varianceIndex: number;
  /** Call and put vols at 25 and 10 delta interpolated to 30 days: the one less the other, and their middle over iv30. */
  riskReversal25: number;
  riskReversal25Uncertainty: number;
  butterfly25: number;
  riskReversal10: number;
  butterfly10: number;
  /** iv90 − iv30. */
  termSlope: number;
  frontExpiry: string | null;
  frontStraddleMove: number;
  frontStraddleUncertainty: number;
  frontDeviationMove: number;
  contracts: number;
  usable: number;
  /** Of calls and puts, and of the puts alone. */
  volume: number;
  putVolume: number;
  openInterest: number;
  putOpenInterest: number;
  rmse: number;
  /** 0…100: that of the expiries, weighted by contracts; one that is set aside counts nothing. */
  quality: number;
}

export interface SnapshotFit {
  expiries: ExpiryFit[];
  measures: SnapshotMeasures;
}
