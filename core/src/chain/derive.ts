import { isStrange, offTerm, type Aside } from '../quality';
import { curveVol, withoutCalendarArbitrage } from '../surface';
import { byHand, exclusionsOn } from './exclusion';
import { levelOf, measured, openSlice } from './fitting';
import { Forwards, parityOf, pastOf, sliceTime } from './forwards';
import { measureSnapshot } from './measures';
import type {
  ExpiryAside,
  ExpiryFit,
  MarketTerms,
  OpenSlice,
  SliceQuotes,
  Snapshot,
  SnapshotContext,
  SnapshotFit,
} from './types';

/** Raised when a method changes, so that stored fits and measures are known to be of an older one. */
export const METHOD_VERSION = 8;

/** Forward, curve and measures of one expiry, without its neighbours. */
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
  const excluded: (readonly Aside[])[] = times.map(({ slice }) =>
    byHand(exclusionsOn(slice, context.exclusions ?? [])),
  );
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
  { before, exclusions = [] }: SnapshotContext,
): void {
  const mark = ({ base }: OpenSlice, reason: ExpiryAside) => {
    const isWanted = exclusionsOn(base, exclusions).some(
      ({ strike, decision }) => strike === null && decision === 'use',
    );
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
      const { atmVol, uncertainty } = levelOf(slice);
      const past = pastOf(slice.base, before);
      const pastVol = past?.curve && past.expiryAside === null ? curveVol(past.curve, 0) : NaN;
      return {
        ...{ years: slice.base.years, atmVol, uncertainty, pastVol },
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
  return { expiries, measures: measureSnapshot(snapshot, opened, expiries) };
}
