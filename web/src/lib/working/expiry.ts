import { deviationMove, sessionMove, SESSIONS_PER_YEAR, type ExpiryFit, type StraddleUsed } from '@umwelt/core';
import { CURVE_WORDS, figures, shortExpiry } from '$lib/formats';
import { number, type Work } from './lines';

/** Where the forward of an expiry comes from. */
export function forwardWords({ forwardSource, forwardUncertainty }: ExpiryFit): string {
  return forwardSource === 'parity'
    ? `forward by put–call parity, D(F − K) = C − P, over the strikes near the money, ± ${number(forwardUncertainty, 3)}`
    : `forward by carry and the yield of the other expiries, as too few strikes agree on one by parity, ± ${number(forwardUncertainty, 3)}`;
}

/** How the straddle comes about: at the forward by vols, or as it is quoted at the strikes around it. */
function straddleLines(fit: ExpiryFit, straddle: StraddleUsed | null): Work['lines'] {
  const key = 'straddle';
  if (!straddle) return [{ key, words: 'by the straddle: no quote near the money can be used', tex: '\\text{–}' }];
  const { choice, parts, move, vol } = straddle;
  const weighed = (value: (part: (typeof parts)[number]) => number) =>
    parts.map((part) => `${number(part.weight, 6)}\\cdot${number(value(part))}`).join(' + ');
  if (choice === 'forward') {
    const { forward, discount, years } = fit;
    return [
      ...parts.map(({ strike, callMid, putMid, vol: own }) => ({
        words: `vol of the mids at ${figures.strike(strike)}${Number.isNaN(callMid + putMid) ? ', of the one side that can be used' : ', of call and put alike'}`,
        tex: `\\sigma_{${number(strike)}} = ${number(own)}`,
      })),
      {
        words: 'interpolated to the forward by distance',
        tex: `\\sigma = ${weighed((part) => part.vol)} = ${number(vol)}`,
      },
      {
        key,
        words: `the straddle at the forward${fit.borrowed ? '' : `, ± ${number(fit.straddleUncertainty, 3)}`}`,
        tex: `2DF\\,(2N(\\tfrac12\\sigma\\sqrt T) - 1) = 2\\cdot${number(discount)}\\cdot${number(forward)}\\,(2N(${number(0.5 * vol * Math.sqrt(years))}) - 1) = ${number(move)}`,
      },
    ];
  }
  const bias =
    choice === 'bracket'
      ? 'by the straddles around the forward: too much where strikes are coarse, as one that lies off the forward is dearer'
      : 'by the straddle nearest to the forward: too much by what it lies off it';
  return [
    ...parts.map(({ strike, callMid, putMid, weight }) => ({
      words: `straddle at ${figures.strike(strike)}: mids of its call and put without early exercise, weighted ${figures.percent(weight)}`,
      tex: `${number(callMid)} + ${number(putMid)} = ${number(callMid + putMid)}`,
    })),
    { key, words: bias, tex: `${weighed(({ callMid, putMid }) => callMid + putMid)} = ${number(move)}` },
  ];
}

/** How the forward, the vol and the expected moves of an expiry come about. */
export function expiryWork(fit: ExpiryFit, straddle: StraddleUsed | null): Work {
  const { forward, atmVol, years } = fit;
  const deviation = deviationMove(forward, atmVol, years);
  // Levels lie where the straddle says; without one where the deviation does.
  const [used, measure] = straddle ? [straddle.move, 'straddle'] : [deviation, 'deviation'];
  return {
    title: `${shortExpiry(fit)}: forward, vol and expected moves`,
    lines: [
      { key: 'forward', words: forwardWords(fit), tex: `F = ${number(forward)}` },
      {
        key: 'vol',
        words: `vol at the forward, ${fit.curve ? `of the fitted curve (${CURVE_WORDS[fit.curve.kind]})` : 'as there is no curve, that of the quotes around it'}`,
        tex: `\\sigma = ${number(atmVol)}`,
      },
      ...straddleLines(fit, straddle),
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
