import { annualized, type ExpiryId, type Side } from '@umwelt/core';
import { clockTime, figures, shortExpiry } from '$lib/formats';
import { number, type Work } from '$lib/working/lines';
import { returnsOf, TARGET_WORDS, type Met } from './target';
import type { Print } from '$lib/data/tape';
import type { DecayRow } from './theta';

/** What a strike that is safe enough brings. */
export function targetWork(
  met: Met,
  kind: keyof typeof TARGET_WORDS,
  asked: number,
  { days, price, expiry, basis }: { days: number; price: number; expiry: ExpiryId; basis: string },
): Work {
  const { side, strike, odds, delta, itm, touch, spread } = met;
  const { credit, risk, share } = returnsOf(met, price);
  return {
    title: `${shortExpiry(expiry)} ${figures.strike(strike)} ${side} for at most ${figures.fixed(asked, 1)} %`,
    lines: [
      {
        words: `odds ${TARGET_WORDS[kind]} on the ${basis} basis: the nearest strike that is bid for and has no more`,
        tex: `${number(odds)} \\le ${number(asked / 100)}`,
      },
      {
        words: spread
          ? `credit at the mids, sold at ${figures.strike(strike)} and bought at ${figures.strike(spread.bought)}`
          : 'credit at the mid',
        tex: `c = ${number(credit)}`,
      },
      {
        words: spread
          ? 'risk: the width less the credit'
          : side === 'put'
            ? 'risk: the strike in cash, less the credit'
            : 'risk: the underlying that covers it, less the credit',
        tex: spread
          ? `${number(Math.abs(strike - spread.bought))} - ${number(credit)} = ${number(risk)}`
          : `${number(side === 'put' ? strike : price)} - ${number(credit)} = ${number(risk)}`,
      },
      {
        words: 'return on what is risked, and as a year of simple interest',
        tex: `\\frac{c}{${number(risk)}} = ${number(share, 6)},\\quad ${number(share, 6)}\\cdot\\frac{365}{${number(days, 6)}} = ${number(annualized(share, days), 6)}`,
      },
      {
        words: 'common practice takes |delta| for the odds to end in the money: it is wrong by',
        tex: `${number(Math.abs(delta))} - ${number(itm)} = ${number(Math.abs(delta) - itm, 6)}`,
      },
      {
        words: 'common practice takes twice the odds to end in the money for those to touch: it is wrong by',
        tex: `2\\cdot${number(itm)} - ${number(touch)} = ${number(2 * itm - touch, 6)}`,
      },
    ],
  };
}

/** What a day costs in an expiry, and what makes it good. */
export function decayWork(row: DecayRow, strike: number, side: Side, multiplier: number): Work {
  const { vol, theory, delta, theta, vega, share, volChange, move } = row;
  return {
    title: `a day of ${shortExpiry(row)} ${figures.strike(strike)} ${side}`,
    lines: [
      {
        words: 'vol, value, delta, theta and vega on the basis in use; w shows theirs',
        tex: `\\sigma = ${number(vol)},\\; V = ${number(theory)},\\; \\Delta = ${number(delta)},\\; \\Theta = ${number(theta)},\\; \\mathcal V = ${number(vega)}`,
      },
      {
        words: 'for one contract',
        tex: `\\Theta\\cdot${number(multiplier)} = ${number(theta * multiplier)}`,
      },
      { words: 'of the value, in a day', tex: `\\Theta/V = ${number(share, 6)}` },
      { words: 'vol points that undo it', tex: `-\\Theta/\\mathcal V = ${number(volChange, 6)}` },
      { words: 'move of the underlying that undoes it', tex: `-\\Theta/|\\Delta| = ${number(move, 6)}` },
    ],
  };
}

/** Where a print lay against theory at its time. */
export function printWork(print: Print, zone: string): Work {
  const { strike, side, time, price, size, theory, bid, ask } = print;
  return {
    title: `${figures.count(size)} ${shortExpiry(print)} ${figures.strike(strike)} ${side} at ${clockTime(time, zone)}`,
    lines: [
      {
        words: 'bid and ask of the last moment that was held then',
        tex: `${number(bid ?? NaN)} \\;\\dots\\; ${number(ask ?? NaN)}`,
      },
      { words: 'theory on the curve of that moment', tex: `V = ${number(theory ?? NaN)}` },
      {
        words: 'the print, less that',
        tex: `${number(price)} - ${number(theory ?? NaN)} = ${number(price - (theory ?? NaN), 6)}`,
      },
    ],
  };
}
