import type { Side } from '../contracts/contract';
import { impliedVol } from '../implied';
import { lognormalUndiscounted } from '../models';
import type { StraddleQuote, StraddleTerms } from '../odds';
import { halfSpreadOf } from './points';
import type { SideVols } from './types';

/**
 * The straddles of an expiry, strikes ascending, as European contracts: mids of American ones without what early exercise is
 * worth. A quote that is not used, for whatever reason, is none.
 *
 * @param calls vols of the calls with the reasons why some are not used, aligned with the strikes
 */
export function straddleQuotes(
  strike: Float64Array,
  at: StraddleTerms,
  calls: SideVols,
  puts: SideVols,
): StraddleQuote[] {
  return Array.from(strike, (_, i) => straddleQuote(strike, i, at, calls, puts));
}

/** Those of {@link straddleQuotes} that the one at the forward is told by: the nearest with a vol on each side of it. */
export function straddlesAround(
  strike: Float64Array,
  at: StraddleTerms,
  calls: SideVols,
  puts: SideVols,
): StraddleQuote[] {
  const isTold = (i: number) => volAt(calls, i) > 0 || volAt(puts, i) > 0;
  let above = 0;
  while (above < strike.length && strike[above]! <= at.forward) above++;
  let below = above - 1;
  while (below >= 0 && !isTold(below)) below--;
  while (above < strike.length && !isTold(above)) above++;
  const around = [below, above].filter((i) => i >= 0 && i < strike.length);
  return around.map((i) => straddleQuote(strike, i, at, calls, puts));
}

const volAt = ({ mid, reason }: SideVols, i: number): number => (reason[i] === 0 ? mid[i]! : NaN);

function straddleQuote(
  strike: Float64Array,
  i: number,
  { forward, years, discount }: StraddleTerms,
  calls: SideVols,
  puts: SideVols,
): StraddleQuote {
  const level = strike[i]!;
  const midOf = (sign: number, vol: number) =>
    discount * lognormalUndiscounted(sign, forward, level, vol * Math.sqrt(years));
  const [call, put] = [volAt(calls, i), volAt(puts, i)];
  // A wide quote says less than a narrow one.
  const [ofCall, ofPut] = [(halfSpreadOf(calls, i) + LEAST_HALF) ** -2, (halfSpreadOf(puts, i) + LEAST_HALF) ** -2];
  const share = ofCall / (ofCall + ofPut);
  return { strike: level, callMid: midOf(1, call), putMid: midOf(-1, put), vol: eitherOr(call, put, share) };
}

/**
 * The straddle at a strike from two mids of European contracts, NaN where one is missing.
 */
export function quotedStraddle(
  strike: number,
  callMid: number,
  putMid: number,
  { forward, years, discount }: StraddleTerms,
): StraddleQuote {
  const rate = years > 0 ? -Math.log(discount) / years : 0;
  const volOf = (side: Side, price: number) => {
    const found = impliedVol({ model: 'black-76', side, forward, strike, years, rate, price });
    return 'vol' in found ? found.vol : NaN;
  };
  return { strike, callMid, putMid, vol: eitherOr(volOf('call', callMid), volOf('put', putMid)) };
}

/** No quote is known better than to so much vol. */
const LEAST_HALF = 0.0005;

/** The mean of two, or the one that there is: where a side is missing the other stands for it, by parity. */
function eitherOr(call: number, put: number, share = 0.5): number {
  if (!(call > 0)) return put;
  return put > 0 ? share * call + (1 - share) * put : call;
}
