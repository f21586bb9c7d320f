import { deviationMove, sessionMove, SESSIONS_PER_YEAR, type ExpiryFit, type StraddleUsed } from '@umwelt/core';
import { CURVE_WORDS, figures, shortDay } from '$lib/formats';
import { number, type Work } from './lines';

/** Where the forward of an expiry comes from. */
export function forwardWords({ forwardSource, forwardUncertainty }: ExpiryFit): string {
  return forwardSource === 'parity'
    ? `forward by put–call parity, D(F − K) = C − P, over the strikes near the money, ± ${number(forwardUncertainty, 3)}`
    : 'forward by carry, as parity has too few quotes';
}

/** How the forward, the vol and the expected moves of an expiry come about. */
export function expiryWork(fit: ExpiryFit, straddle: StraddleUsed | null): Work {
  const { forward, atmVol, years } = fit;
  const deviation = deviationMove(forward, atmVol, years);
  // Levels lie where the straddle says; without one where the deviation does.
  const [used, measure] = straddle ? [straddle.move, 'straddle'] : [deviation, 'deviation'];
  const parts = (straddle?.parts ?? []).map(({ strike, callMid, putMid, weight }) => ({
    words: `straddle at ${figures.strike(strike)}: mids of its call and put, weighted ${figures.percent(weight)}`,
    tex: `${number(callMid)} + ${number(putMid)} = ${number(callMid + putMid)}`,
  }));
  const sum = (straddle?.parts ?? [])
    .map(({ callMid, putMid, weight }) => `${number(weight, 6)}\\cdot${number(callMid + putMid)}`)
    .join(' + ');
  return {
    title: `${shortDay(fit.expiry)}: forward, vol and expected moves`,
    lines: [
      { key: 'forward', words: forwardWords(fit), tex: `F = ${number(forward)}` },
      {
        key: 'vol',
        words: `vol at the forward, ${fit.curve ? `of the fitted curve (${CURVE_WORDS[fit.curve.kind]})` : 'as there is no curve, that of the quotes around it'}`,
        tex: `\\sigma = ${number(atmVol)}`,
      },
      ...parts,
      ...(straddle
        ? [{ key: 'straddle', words: 'by the straddle', tex: `${sum} = ${number(straddle.move)}` }]
        : [{ key: 'straddle', words: 'by the straddle: no strike has both sides quoted', tex: '\\text{–}' }]),
      {
        key: 'deviation',
        words: 'one deviation on the vol at the forward',
        tex: `F\\,\\sigma\\sqrt T = ${number(forward)}\\cdot${number(atmVol)}\\cdot\\sqrt{${number(years, 7)}} = ${number(deviation)}`,
      },
      {
        key: 'ratio',
        words: 'common practice: 0.8; without skew √(2/π) and a little less',
        tex: `\\frac{${number(straddle?.move ?? NaN)}}{${number(deviation)}} = ${number((straddle?.move ?? NaN) / deviation, 5)}`,
      },
      {
        key: 'levels',
        words: `levels around the forward by the ${measure}, and what it is of the forward`,
        tex: `F \\mp m = ${number(forward - used)}\\;\\dots\\;${number(forward + used)},\\quad m/F = ${number(used / forward, 6)}`,
      },
      {
        key: 'daily',
        words: 'one deviation of a session: vol over the root of the sessions of a year',
        tex: `\\frac{\\sigma}{\\sqrt{${SESSIONS_PER_YEAR}}} = ${number(sessionMove(atmVol), 6)}`,
      },
    ],
  };
}
