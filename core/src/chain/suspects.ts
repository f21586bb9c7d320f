import type { Side } from '../contracts';
import { normalDensity } from '../distributions';
import { REASONS, type ReasonCode } from '../implied';
import type { Aside } from '../quality';
import { curveVol, FEWEST_NATURAL, fitCurveTo, fitPoints, pointMisses, shapedLike, type Curve } from '../surface';
import { curveQuotes, halfSpreadOf } from './points';
import type { SideVols, SliceQuotes } from './types';

const OFF_CURVE: ReasonCode = REASONS.indexOf('off-curve');
const OFF_PARITY: ReasonCode = REASONS.indexOf('off-parity');
const STALE: ReasonCode = REASONS.indexOf('stale');

/** What a curve is not asked to follow, in vol: it misses good quotes of the demo by a tenth to a quarter of a point. */
const MODEL_ERROR = 0.001;
/** Call and put of a strike contradict each other from so many half spreads on, and from so many of what is usual in the expiry. */
const CONTRADICT = 1;
const CONTRADICT_USUAL = 5;
/** A point is off when the curve of the others misses it by so many standard errors, and by so many of its half spreads. */
const OFF_ERRORS = 5;
const OFF_HALVES = 1.5;
/** The same of a quote that stood still since the session before. */
const STILL_ERRORS = 3;
const STILL_HALVES = 0.75;
/** A contract in the money is off parity when it misses the curve by so many half spreads. */
const OFF_INSIDE = 6;
const STILL_INSIDE = 2.5;
/** Where more than this share would be off, the curve is wrong and none is. */
const MOST_SHARE = 0.2;
const MEDIAN_SHARE = 0.6745;

/** An expiry whose quotes are judged. */
export interface JudgedSlice {
  readonly slice: SliceQuotes;
  readonly at: { readonly years: number; readonly forward: number };
  /** Vols with the reasons why some are not used; a copy is judged, they stay as they are. */
  readonly calls: SideVols;
  readonly puts: SideVols;
  /** 1 where the quote is that of the session before and nothing was traded since. */
  readonly still: { readonly call: Uint8Array; readonly put: Uint8Array };
  /** The curve of what is used, as it has been fitted already. */
  readonly curve: Curve | null;
  /** The curve of the session before. */
  readonly past: Curve | null;
  /** Whether somebody wants a contract used. */
  readonly isWanted: (side: Side, strike: number) => boolean;
}

/**
 * Contracts whose vol cannot be meant. Where call and put of a strike contradict each other, one of them is wrong: the one
 * further from the curve that is made without both. A quote out of the money is off the curve when the curve of the others
 * would miss it by far, however much it pulls that curve onto itself; a quote that has stood still since the session before,
 * by less. In the money it is off parity.
 */
export function findSuspects(judged: JudgedSlice): Aside[] {
  const { slice, at, still, past, isWanted } = judged;
  const { strike } = slice;
  const sides = { call: copied(judged.calls), put: copied(judged.puts) };
  const found: Aside[] = [];
  const isOutside = (side: Side, i: number) => (side === 'call') === strike[i]! >= at.forward;
  const setAside = (side: Side, i: number, reason: ReasonCode) => {
    sides[side].reason[i] = reason;
    found.push({ side, strike: strike[i]!, reason });
  };
  const reasonOf = (side: Side, i: number): ReasonCode =>
    still[side][i] === 1 ? STALE : isOutside(side, i) ? OFF_CURVE : OFF_PARITY;
  const contradicting = contradictions(judged, sides.call, sides.put);
  for (const i of contradicting) sides.call.reason[i] = sides.put.reason[i] = OFF_PARITY;

  const trimmed = trimmedCurve();
  const reference = trimmed ?? (past && { ...past, years: at.years, forward: at.forward });
  const missOf = (side: Side, i: number) =>
    reference ? Math.abs(sides[side].mid[i]! - volOn(reference, i)) : Number(still[side][i]);
  for (const i of contradicting) {
    for (const side of ['call', 'put'] as const) sides[side].reason[i] = 0;
    const [better, worse] =
      missOf('call', i) <= missOf('put', i) ? (['call', 'put'] as const) : (['put', 'call'] as const);
    const isTold = reference !== null || still.call[i] !== still.put[i];
    if (isTold && !isWanted(worse, strike[i]!)) setAside(worse, i, reasonOf(worse, i));
    const halves = 2 * (still[better][i] === 1 ? STILL_HALVES : OFF_HALVES);
    const isOff = missOf(better, i) > halves * tolerance(sides[better], i);
    if (trimmed && isOff && !isWanted(better, strike[i]!)) setAside(better, i, reasonOf(better, i));
  }
  if (trimmed) judgeInside(trimmed);
  return found;

  function volOn(curve: Curve, i: number): number {
    return curveVol(curve, Math.log(strike[i]! / at.forward));
  }

  /** The curve of what is left when the points that are off have gone, one after the other; null without a shape. */
  function trimmedCurve(): Curve | null {
    const gone: { side: Side; i: number }[] = [];
    for (;;) {
      const quotes = curveQuotes(strike, at, sides.call, sides.put);
      const points = fitPoints(quotes, at.years);
      if (points.count < FEWEST_NATURAL) {
        return past && shapedLike(past, points, at.years, at.forward);
      }
      const isAsFitted = contradicting.length === 0 && gone.length === 0 && judged.curve !== null;
      const curve = isAsFitted ? judged.curve : fitCurveTo(points, at.forward)!.curve;
      const worst = worstOf(quotes, pointMisses(points, curve));
      if (worst === null) {
        for (const { side, i } of gone) setAside(side, i, reasonOf(side, i));
        return curve;
      }
      if (gone.length >= Math.max(1, MOST_SHARE * (points.count + gone.length))) {
        // So many cannot all be wrong: the curve is.
        for (const { side, i } of gone) sides[side].reason[i] = 0;
        return null;
      }
      sides[worst.side].reason[worst.i] = reasonOf(worst.side, worst.i);
      gone.push(worst);
    }
  }

  function worstOf(
    quotes: ReturnType<typeof curveQuotes>,
    misses: ReturnType<typeof pointMisses>,
  ): { side: Side; i: number } | null {
    let worst: { side: Side; i: number } | null = null;
    let most = 0;
    misses.forEach(({ off, errors }, n) => {
      const [side, i] = [quotes.side[n]!, quotes.index[n]!];
      if (isWanted(side, strike[i]!)) return;
      const [errorsOff, halvesOff] = still[side][i] === 1 ? [STILL_ERRORS, STILL_HALVES] : [OFF_ERRORS, OFF_HALVES];
      const times = Math.min(errors / errorsOff, off / (halvesOff * tolerance(sides[side], i)));
      if (times > 1 && times > most) [worst, most] = [{ side, i }, times];
    });
    return worst;
  }

  function judgeInside(curve: Curve): void {
    const off: { side: Side; i: number }[] = [];
    let count = 0;
    for (const side of ['call', 'put'] as const) {
      for (let i = 0; i < strike.length; i++) {
        if (sides[side].reason[i] !== 0) continue;
        count++;
        if (isOutside(side, i)) continue;
        const miss = Math.abs(sides[side].mid[i]! - volOn(curve, i));
        const halves = still[side][i] === 1 ? STILL_INSIDE : OFF_INSIDE;
        if (miss > halves * tolerance(sides[side], i) && !isWanted(side, strike[i]!)) off.push({ side, i });
      }
    }
    if (off.length <= Math.max(1, MOST_SHARE * count))
      for (const { side, i } of off) setAside(side, i, reasonOf(side, i));
  }
}

function copied(vols: SideVols): SideVols {
  return { ...vols, reason: vols.reason.slice() };
}

function tolerance(vols: SideVols, i: number): number {
  return halfSpreadOf(vols, i) + MODEL_ERROR;
}

/**
 * Strikes at which call and put say vols that are further apart than their spreads; none where it is most of them, as the forward
 * is wrong then. What the forward is off by for most of them, bad quotes having had a say in it, is no fault of one.
 */
function contradictions({ slice: { strike }, at }: JudgedSlice, calls: SideVols, puts: SideVols): number[] {
  const pairs: { i: number; gap: number; vega: number; half: number }[] = [];
  for (let i = 0; i < strike.length; i++) {
    // A bid under what exercising earns leaves the vol open downwards: it contradicts nothing.
    if (calls.reason[i] !== 0 || puts.reason[i] !== 0) continue;
    if (!Number.isFinite(calls.bid[i]! + puts.bid[i]!)) continue;
    const half = Math.hypot(halfSpreadOf(calls, i), halfSpreadOf(puts, i));
    const deviation = 0.5 * (calls.mid[i]! + puts.mid[i]!) * Math.sqrt(at.years);
    const vega = normalDensity(Math.log(at.forward / strike[i]!) / deviation + 0.5 * deviation);
    pairs.push({ i, gap: calls.mid[i]! - puts.mid[i]!, vega, half });
  }
  const isFew = pairs.length < FEWEST_NATURAL;
  const off = isFew ? 0 : middleOf(pairs.map(({ gap, vega }) => gap * vega));
  const sizes = pairs.map(({ gap, vega, half }) => Math.abs(gap - off / vega) / (half + MODEL_ERROR));
  const limit = isFew ? CONTRADICT : Math.max(CONTRADICT, CONTRADICT_USUAL * (middleOf(sizes) / MEDIAN_SHARE));
  return pairs.flatMap(({ i }, n) => (sizes[n]! > limit ? [i] : []));
}

function middleOf(values: readonly number[]): number {
  return values.toSorted((a, b) => a - b)[values.length >> 1]!;
}
