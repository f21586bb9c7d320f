import { curveVol, type Borrowing, type Curve } from '@umwelt/core';
import { skewPoints } from './charts/skew';
import { figures, shortName, type Sentence } from '$lib/formats';
import type { FittedSlice, ValuedSlice } from '$lib/data';

/** How many of an expiry's quotes have a curve between their bid and their ask. */
export interface Enclosed {
  inside: number;
  of: number;
}

/** Counts the out-of-the-money quotes in use whose bid and ask enclose a curve; a bid without a vol is under every curve. */
export function enclosedBy(slice: FittedSlice, values: ValuedSlice, curve: Curve): Enclosed {
  const points = skewPoints(slice, values);
  const inside = points.filter(({ strike, bid, ask }) => {
    const vol = curveVol(curve, Math.log(strike / slice.fit.forward));
    return vol <= ask && !(vol < bid);
  });
  return { inside: inside.length, of: points.length };
}

const shareWords = ({ inside, of }: Enclosed) => `${figures.count(inside)} of ${figures.counted(of, 'quote')}`;

/**
 * How a curve that might be borrowed meets the quotes, beside the own one.
 *
 * @param takenFrom the expiry that lends; null where there is none
 */
export function borrowSentence(
  { source }: Pick<Borrowing, 'source'>,
  takenFrom: string | null,
  draft: Enclosed | null,
  own: Enclosed | null,
  isSound: boolean,
): Sentence {
  if (takenFrom === null || !draft)
    return { lead: `${source} lends nothing here.`, rest: 'No expiry of it has a curve of its own at this moment.' };
  const lead = `${source} ${shortName(takenFrom)} lies inside ${shareWords(draft)}`;
  const sound = isSound ? '' : ' As adjusted it has butterfly arbitrage.';
  return { lead, rest: `${own ? `(the own curve: ${shareWords(own)}).` : '.'}${sound}` };
}
