import { normalCdf } from '../distributions';

/** Mids of both sides at a strike; NaN where one is missing. */
export interface StraddleQuote {
  readonly strike: number;
  readonly callMid: number;
  readonly putMid: number;
}

/** Whether the two strikes that bracket the forward are weighted, or the nearest stands alone. */
export const STRADDLE_CHOICES = ['bracket', 'nearest'] as const;
export type StraddleChoice = (typeof STRADDLE_CHOICES)[number];

/** The straddles that an expected move is made of, and how much of each. */
export interface StraddleUsed {
  move: number;
  parts: (StraddleQuote & { weight: number })[];
}

/**
 * Expected move by the at-the-money straddle: of the two strikes that bracket the forward, weighted linearly by distance; of
 * the nearest strike alone where the forward sits on it or is not bracketed, or where that is the choice.
 *
 * @param quotes strikes ascending; those without both mids are passed over
 * @returns null without any complete straddle
 */
export function straddleUsed(
  quotes: readonly StraddleQuote[],
  forward: number,
  choice: StraddleChoice = 'bracket',
): StraddleUsed | null {
  let below: StraddleQuote | undefined;
  let above: StraddleQuote | undefined;
  for (const quote of quotes) {
    if (!Number.isFinite(quote.callMid + quote.putMid)) continue;
    if (quote.strike <= forward) below = quote;
    else above ??= quote;
  }
  if (!below && !above) return null;
  const share = !below ? 1 : !above ? 0 : (forward - below.strike) / (above.strike - below.strike);
  // Half way between two, the lower.
  const weight = choice === 'nearest' ? Number(share > 0.5) : share;
  const parts = [
    { quote: below, weight: 1 - weight },
    { quote: above, weight },
  ].flatMap(({ quote, weight: part }) => (quote && part > 0 ? [{ ...quote, weight: part }] : []));
  const move = parts.reduce((sum, { weight: part, callMid, putMid }) => sum + part * (callMid + putMid), 0);
  return { move, parts };
}

/** The move of {@link straddleUsed} alone; NaN without any complete straddle. */
export function straddleMove(quotes: readonly StraddleQuote[], forward: number): number {
  return straddleUsed(quotes, forward)?.move ?? NaN;
}

/** Expected move as one standard deviation, F·σ·√T. */
export function deviationMove(forward: number, atmVol: number, years: number): number {
  return forward * atmVol * Math.sqrt(years);
}

/**
 * The at-the-money straddle over one deviation, under a lognormal law without skew: D·2(2N(s/2) − 1)/s with s = σ√T. It is
 * √(2/π) ≈ 0.798 for short times and low vols and falls from there; common practice takes 0.8 (M. Brenner and M. Subrahmanyam,
 * "A simple formula to compute the implied standard deviation", 1988).
 *
 * @param discount of the straddle's price
 */
export function straddleShare(deviation: number, discount = 1): number {
  return deviation > 0 ? (discount * 2 * (2 * normalCdf(0.5 * deviation) - 1)) / deviation : NaN;
}
