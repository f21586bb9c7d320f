import { normalCdf } from '../distributions';

/** The straddle at a strike, read as European; NaN where a side is missing or not to be used. */
export interface StraddleQuote {
  readonly strike: number;
  readonly callMid: number;
  readonly putMid: number;
  /** Vol of its mids; of the one side alone where the other is missing. NaN for neither. */
  readonly vol: number;
}

/** Whether the straddle is priced at the forward itself, or those at the strikes around it are taken as they are quoted. */
export const STRADDLE_CHOICES = ['forward', 'bracket', 'nearest'] as const;
export type StraddleChoice = (typeof STRADDLE_CHOICES)[number];

/** The forward of an expiry, its time and its discount. */
export interface StraddleTerms {
  readonly forward: number;
  readonly years: number;
  readonly discount: number;
}

/** The straddles that an expected move is made of, and how much of each. */
export interface StraddleUsed {
  choice: StraddleChoice;
  move: number;
  /** At the forward, where the straddle is priced there; NaN else. */
  vol: number;
  parts: (StraddleQuote & { weight: number })[];
}

/**
 * Expected move by the at-the-money straddle.
 *
 * - `forward`: the vols of the mids at the two strikes that bracket the forward, interpolated to it by distance, priced there.
 * - `bracket`: the prices at these two strikes, weighted by distance. A straddle is dearer the further its strike lies from
 *   the forward, so with coarse strikes this is too much.
 * - `nearest`: the price at the nearest strike alone, which is too much for the same reason.
 *
 * Where the forward sits on a strike or is not bracketed, the nearest strike stands alone.
 *
 * @param quotes strikes ascending; those without both mids (for `forward`: without any) are passed over
 * @returns null without a strike that can be used
 */
export function straddleUsed(
  quotes: readonly StraddleQuote[],
  { forward, years, discount }: StraddleTerms,
  choice: StraddleChoice,
): StraddleUsed | null {
  let below: StraddleQuote | undefined;
  let above: StraddleQuote | undefined;
  for (const quote of quotes) {
    if (!(choice === 'forward' ? quote.vol > 0 : Number.isFinite(quote.callMid + quote.putMid))) continue;
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
  const weighed = (value: (quote: StraddleQuote) => number) =>
    parts.reduce((sum, part) => sum + part.weight * value(part), 0);
  if (choice !== 'forward') {
    return { choice, move: weighed(({ callMid, putMid }) => callMid + putMid), vol: NaN, parts };
  }
  const vol = weighed((quote) => quote.vol);
  return { choice, move: straddleAtForward(forward, vol * Math.sqrt(years), discount), vol, parts };
}

/** Price of the European straddle struck at the forward: D·F·2(2N(s/2) − 1), s its deviation. */
function straddleAtForward(forward: number, deviation: number, discount: number): number {
  return discount * forward * 2 * (2 * normalCdf(0.5 * deviation) - 1);
}

/**
 * Expected move as one standard deviation, F·σ·√T.
 *
 * @example deviationMove(4000, 0.2, 0.25) // 400
 */
export function deviationMove(forward: number, atmVol: number, years: number): number {
  return forward * atmVol * Math.sqrt(years);
}

/**
 * The at-the-money straddle over one deviation, under a lognormal law without skew: D·2(2N(s/2) − 1)/s with s = σ√T. It is
 * √(2/π) ≈ 0.798 for short times and low vols and falls from there; common practice takes 0.8 (M. Brenner and M. Subrahmanyam,
 * "A simple formula to compute the implied standard deviation", 1988).
 *
 * @param discount of the straddle's price
 * @example straddleShare(0.1) // 0.7976
 */
export function straddleShare(deviation: number, discount = 1): number {
  return deviation > 0 ? straddleAtForward(1, deviation, discount) / deviation : NaN;
}
