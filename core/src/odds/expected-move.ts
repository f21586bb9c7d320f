/** Mids of both sides at a strike; NaN where one is missing. */
export interface StraddleQuote {
  readonly strike: number;
  readonly callMid: number;
  readonly putMid: number;
}

/**
 * Expected move by the at-the-money straddle: of the two strikes that bracket the forward, weighted
 * linearly by distance; of the nearest strike alone where the forward sits on it or is not bracketed.
 *
 * @param quotes strikes ascending; those without both mids are passed over
 * @returns NaN without any complete straddle
 */
export function straddleMove(quotes: readonly StraddleQuote[], forward: number): number {
  let below: StraddleQuote | undefined;
  let above: StraddleQuote | undefined;
  for (const quote of quotes) {
    if (!Number.isFinite(quote.callMid + quote.putMid)) continue;
    if (quote.strike <= forward) below = quote;
    else above ??= quote;
  }
  const value = (quote: StraddleQuote) => quote.callMid + quote.putMid;
  if (!below || !above) {
    const only = below ?? above;
    return only ? value(only) : NaN;
  }
  const share = (forward - below.strike) / (above.strike - below.strike);
  return (1 - share) * value(below) + share * value(above);
}

/** Expected move as one standard deviation, F·σ·√T. */
export function deviationMove(forward: number, atmVol: number, years: number): number {
  return forward * atmVol * Math.sqrt(years);
}
