import { REASONS, type ReasonCode } from '../implied';
import { curveVol, type Curve } from '../surface';

/** A contract that has a vol and is not used all the same. */
export interface Aside {
  side: 'call' | 'put';
  strike: number;
  /** Code of REASONS: `off-curve`, `off-parity`, `stale` or `by-hand`. */
  reason: ReasonCode;
}

/** What somebody has decided about a contract or, with strike and side null, about a whole expiry. */
export interface Verdict {
  expiry: string;
  settlement: 'am' | 'pm';
  strike: number | null;
  side: 'call' | 'put' | null;
  verdict: 'use' | 'aside';
}

/** One side of an expiry as it is judged; arrays aligned with the strikes. */
export interface JudgedSide {
  side: 'call' | 'put';
  /** Vols at mid, bid and ask; NaN where there is none. */
  mid: Float64Array;
  bid: Float64Array;
  ask: Float64Array;
  reason: Uint8Array;
  /** 1 where the quote is that of the session before and nothing was traded since. */
  unmoved: Uint8Array;
}

const OFF_CURVE: ReasonCode = REASONS.indexOf('off-curve');
const OFF_PARITY: ReasonCode = REASONS.indexOf('off-parity');
const STALE: ReasonCode = REASONS.indexOf('stale');

/** What a curve is not asked to follow, in vol: it misses good quotes of the demo by a tenth to a quarter of a point. */
const MODEL_ERROR = 0.001;
/** A quote is off when it misses by more than this many of its tolerances, a quote that stood still by fewer. */
const OFF = 6;
const OFF_UNMOVED = 2.5;
/** A miss within so many of the typical ones of its expiry is the curve's fault. */
const TYPICAL = 6;
const MOST_SHARE = 0.2;

/**
 * Contracts whose vol lies so far from the curve of their expiry that it cannot be meant: off the curve on the
 * out-of-the-money side, off parity on the other, stale where the quote has not moved since the session before. Each
 * is measured by its own spread and by what is usual in its expiry (robust scale: 1.4826 × the median of the misses).
 * Where more than a fifth would be off, the curve is wrong and none is.
 *
 * @param strike ascending
 */
export function findAside(strike: Float64Array, forward: number, curve: Curve, sides: readonly JudgedSide[]): Aside[] {
  const vol = Float64Array.from(strike, (level) => curveVol(curve, Math.log(level / forward)));
  const misses: number[] = [];
  for (const { side, mid, reason } of sides) {
    for (let i = 0; i < strike.length; i++) {
      if (reason[i] === 0 && isOutside(side, strike[i]!, forward)) misses.push(Math.abs(mid[i]! - vol[i]!));
    }
  }
  const usual = TYPICAL * 1.4826 * medianOf(misses);
  const found: Aside[] = [];
  let judged = 0;
  for (const { side, mid, bid, ask, reason, unmoved } of sides) {
    for (let i = 0; i < strike.length; i++) {
      if (reason[i] !== 0) continue;
      judged++;
      const miss = Math.abs(mid[i]! - vol[i]!);
      const isStill = unmoved[i] === 1;
      if (!(miss > (isStill ? 0.5 : 1) * usual)) continue;
      const half = Number.isFinite(bid[i]!) ? 0.5 * (ask[i]! - bid[i]!) : ask[i]! - mid[i]!;
      if (!(miss > (isStill ? OFF_UNMOVED : OFF) * (half + MODEL_ERROR))) continue;
      const off = isOutside(side, strike[i]!, forward) ? OFF_CURVE : OFF_PARITY;
      found.push({ side, strike: strike[i]!, reason: isStill ? STALE : off });
    }
  }
  return found.length > Math.max(1, MOST_SHARE * judged) ? [] : found;
}

/** Whether a contract is out of the money, at the forward included for calls. */
function isOutside(side: 'call' | 'put', strike: number, forward: number): boolean {
  return side === 'call' ? strike >= forward : strike < forward;
}

/** The middle of some values; 0 for none. */
function medianOf(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b);
  return sorted[sorted.length >> 1] ?? 0;
}
