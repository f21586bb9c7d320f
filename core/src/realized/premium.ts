import { rankOf } from './rank';

/** Implied against realized vol by session. Vols are decimals, NaN for what there is not. */
export interface PremiumSession {
  implied: number;
  /** Known on the session: of bars up to the one before it or its own. */
  realized: number;
  /** What the price did over the horizon after it; NaN while that is not over. */
  after: number;
  /** Rank of the implied vol on the session among those before it. */
  rank: number;
}

/** What a set of sessions says. */
export interface PremiumSummary {
  sessions: number;
  /** Mean of implied less realized afterwards, and of their ratio's logarithm as a ratio. */
  mean: number;
  median: number;
  ratio: number;
  /** Share of the sessions on which implied was over. */
  over: number;
}

/**
 * Realized vol of the sessions after each, with a mean of zero: the root of their mean squared return.
 *
 * @param close by session, NaN where there is none
 * @param horizon sessions
 * @returns NaN where the horizon is not over
 */
export function realizedAfter(close: Float64Array, horizon: number, periodsPerYear = 252): Float64Array {
  return Float64Array.from(close, (_, i) => {
    if (i + horizon >= close.length) return NaN;
    let squares = 0;
    for (let j = i + 1; j <= i + horizon; j++) squares += Math.log(close[j]! / close[j - 1]!) ** 2;
    return Math.sqrt((squares / horizon) * periodsPerYear);
  });
}

/**
 * Sessions with implied vols beside what was realized before and after.
 *
 * @param lookback sessions of the rank, the one in view included
 */
export function premiumSessions(
  { implied, realized, close }: { implied: Float64Array; realized: Float64Array; close: Float64Array },
  horizon: number,
  lookback = 252,
): PremiumSession[] {
  const after = realizedAfter(close, horizon);
  return Array.from(implied, (vol, i) => ({
    implied: vol,
    realized: realized[i]!,
    after: after[i]!,
    rank: rankOf(implied.subarray(Math.max(0, i - lookback + 1), i + 1), lookback)?.rank ?? NaN,
  }));
}

/** A summary of implied less something else; null without any session that has both. */
export function premiumOf(
  sessions: readonly PremiumSession[],
  against: 'realized' | 'after' = 'after',
): PremiumSummary | null {
  const held = sessions.filter((one) => one.implied > 0 && one[against] > 0);
  if (held.length === 0) return null;
  const gaps = held.map((one) => one.implied - one[against]);
  const sorted = gaps.toSorted((a, b) => a - b);
  const middle = sorted.length >> 1;
  const median = sorted.length % 2 === 1 ? sorted[middle]! : 0.5 * (sorted[middle - 1]! + sorted[middle]!);
  const logs = held.reduce((sum, one) => sum + Math.log(one.implied / one[against]), 0);
  return {
    sessions: held.length,
    mean: gaps.reduce((sum, gap) => sum + gap, 0) / held.length,
    median,
    ratio: Math.exp(logs / held.length),
    over: gaps.filter((gap) => gap > 0).length / held.length,
  };
}

/** Ranks by thirds. */
export const REGIMES = ['low', 'middle', 'high'] as const;
export type Regime = (typeof REGIMES)[number];

/** The regime of a rank; null without one. */
export function regimeOf(rank: number): Regime | null {
  if (!Number.isFinite(rank)) return null;
  return rank < 1 / 3 ? 'low' : rank < 2 / 3 ? 'middle' : 'high';
}

/** What implied vols earned afterwards, by where they stood in their past. */
export function premiumByRegime(sessions: readonly PremiumSession[]): Record<Regime, PremiumSummary | null> {
  const of = (regime: Regime) => premiumOf(sessions.filter(({ rank }) => regimeOf(rank) === regime));
  return { low: of('low'), middle: of('middle'), high: of('high') };
}
