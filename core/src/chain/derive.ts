import { isStrange, offTerm, type Aside } from '../quality';
import {
  constantMaturityVol,
  curveVol,
  maturityMeasures,
  maturityShares,
  varianceIndex,
  withoutCalendarArbitrage,
  type Curve,
  type TimedStrip,
} from '../surface';
import { MINUTES_PER_YEAR } from '../time';
import {
  byHand,
  measured,
  openSlice,
  verdictsOn,
  type ExpiryAside,
  type ExpiryFit,
  type OpenSlice,
  type SnapshotContext,
} from './fit';
import { Forwards, parityOf, pastOf, sliceTime } from './forwards';
import type { MarketTerms, SliceQuotes, Snapshot } from './snapshot';

/** Raised when a method changes, so that stored fits and measures are known to be of an older one. */
export const METHOD_VERSION = 7;

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

const DAYS_PER_YEAR = 365;

/** Forward, curve and measures of one expiry, by itself. */
export function deriveSlice(
  slice: SliceQuotes,
  snapshot: Snapshot,
  terms: MarketTerms,
  context: SnapshotContext = {},
): ExpiryFit {
  const [opened] = openSlices({ ...snapshot, slices: [slice] }, terms, context).opened;
  return measured(opened!);
}

/** Opens the expiries of a snapshot, and tells which of their forwards cannot be meant, and which are far from carry. */
function openSlices(
  snapshot: Snapshot,
  terms: MarketTerms,
  context: SnapshotContext,
): { opened: OpenSlice[]; broken: readonly boolean[]; strange: ReadonlySet<OpenSlice> } {
  const times = snapshot.slices.map((slice) => sliceTime(slice, snapshot, terms));
  const parityWithout = (i: number, excluded: readonly Aside[]) =>
    parityOf(times[i]!, snapshot, terms, (side, strike) =>
      excluded.some((one) => one.side === side && one.strike === strike),
    );
  const excluded: (readonly Aside[])[] = times.map(({ slice }) => byHand(verdictsOn(slice, context.verdicts ?? [])));
  const parities = times.map((_, i) => parityWithout(i, excluded[i]!));
  let forwards = new Forwards(times, parities, snapshot, terms, context.before);
  const open = (i: number) => openSlice(times[i]!, forwards.at(i), snapshot, terms, context, excluded[i]!);
  const opened = times.map((_, i) => open(i));
  // What turned out not to be meant has had a say in the forwards: they are found again without it.
  const isHeard = (i: number, { strike }: Aside) => {
    const [from, to] = parities[i]?.heard ?? [-Infinity, Infinity];
    return strike >= from && strike <= to;
  };
  const dirty = opened.flatMap(({ base }, i) =>
    base.aside.slice(excluded[i]!.length).some((one) => isHeard(i, one)) ? [i] : [],
  );
  if (dirty.length > 0) {
    for (const i of dirty) {
      excluded[i] = opened[i]!.base.aside;
      parities[i] = parityWithout(i, excluded[i]!);
    }
    forwards = new Forwards(times, parities, snapshot, terms, context.before);
    opened.forEach(({ base }, i) => {
      if (forwards.at(i).forward !== base.forward) opened[i] = open(i);
    });
  }
  const strange = new Set(
    opened.filter(({ base }, i) => base.forwardSource === 'parity' && isStrange({ ...base, carry: times[i]!.carry })),
  );
  return { opened, broken: forwards.broken, strange };
}

/** An expiry of fewer points can be told wrong by others: one shifted side has as many that agree. */
const FEWEST_SURE = 8;

/** Sets expiries aside that cannot be meant, but for those that somebody wants used. */
function judgeExpiries(
  opened: readonly OpenSlice[],
  broken: readonly boolean[],
  strange: ReadonlySet<OpenSlice>,
  { before, verdicts = [] }: SnapshotContext,
): void {
  const mark = ({ base }: OpenSlice, reason: ExpiryAside) => {
    const isWanted = verdictsOn(base, verdicts).some(({ strike, verdict }) => strike === null && verdict === 'use');
    if (!isWanted) base.expiryAside ??= reason;
  };
  opened.forEach((slice, i) => {
    if (broken[i]) mark(slice, 'broken-forward');
  });
  const judged = opened
    .filter(({ base, fitted }) => base.expiryAside === null && fitted !== null)
    .sort((a, b) => a.base.years - b.base.years);
  const isScarce = (slice: OpenSlice) =>
    slice.shape !== 'own' || slice.points.count < FEWEST_SURE || strange.has(slice);
  if (!judged.some(isScarce)) return;
  const off = offTerm(
    judged.map((slice) => {
      const { atmVol, atmVolUncertainty } = measured(slice);
      const past = pastOf(slice.base, before);
      const pastVol = past?.curve && past.expiryAside === null ? curveVol(past.curve, 0) : NaN;
      return {
        ...{ years: slice.base.years, atmVol, uncertainty: atmVolUncertainty, pastVol },
        isScarce: isScarce(slice),
      };
    }),
  );
  judged.forEach((slice, i) => {
    if (off[i]) mark(slice, 'off-term');
  });
}

/** The fits of expiries whose curves keep clear of each other; one that is set aside is compared with none. */
function besideEachOther(slices: readonly OpenSlice[]): ExpiryFit[] {
  const compared = slices
    .flatMap(({ base, points, fitted, shape }) =>
      fitted && base.expiryAside === null ? [{ base, points, curve: fitted.curve, shape }] : [],
    )
    .sort((a, b) => a.base.years - b.base.years);
  const curves = withoutCalendarArbitrage(compared);
  return slices.map((slice) => measured(slice, curves[compared.findIndex(({ base }) => base === slice.base)]));
}

/** Fits every expiry of a snapshot and measures the underlying by them. */
export function deriveSnapshot(snapshot: Snapshot, terms: MarketTerms, context: SnapshotContext = {}): SnapshotFit {
  const { opened, broken, strange } = openSlices(snapshot, terms, context);
  judgeExpiries(opened, broken, strange, context);
  const expiries = besideEachOther(opened).sort((a, b) => a.years - b.years);
  const fitted = expiries.filter(
    (fit): fit is ExpiryFit & { curve: Curve } => fit.curve !== null && fit.years > 0 && fit.expiryAside === null,
  );
  const vols = fitted.map(({ years, atmVol }) => ({ years, vol: atmVol }));
  const atm = (days: number) => constantMaturityVol(vols, days / DAYS_PER_YEAR);
  const front = fitted[0];
  const iv30 = atm(30);
  const iv90 = atm(90);
  const total = (side: 'call' | 'put', what: 'volume' | 'openInterest') =>
    snapshot.slices.reduce((sum, slice) => sum + sumOf(slice[side][what]), 0);
  const putVolume = total('put', 'volume');
  const putOpenInterest = total('put', 'openInterest');
  const wings = maturityMeasures(fitted, 30 / DAYS_PER_YEAR);
  const uncertain = (of: (fit: ExpiryFit) => number, among: readonly ExpiryFit[] = fitted) =>
    Math.hypot(...maturityShares(among, 30 / DAYS_PER_YEAR).map((share, i) => (share > 0 ? share * of(among[i]!) : 0)));
  const points = fitted.reduce((sum, fit) => sum + fit.usable, 0);
  const squares = fitted.reduce((sum, fit) => sum + fit.usable * fit.rmse ** 2, 0);
  return {
    expiries,
    measures: {
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
    },
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
