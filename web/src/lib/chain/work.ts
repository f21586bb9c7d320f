import { annualized, type Payoff, type PricedSpread, type SpreadOdds } from '@umwelt/core';
import { clockTime, figures, shortDay } from '$lib/formats';
import type { SpreadLeg } from '$lib/state/context';
import type { LoadedSnapshot } from '$lib/workers';
import { number, signed, type Work, type WorkingLine } from '$lib/working/lines';
import { gainOf, type PricedStructure } from './priced';
import { legWords, type LegValues, type PlacedLeg } from './spread';
import { returnsOf, TARGET_WORDS, type Met } from './target';
import type { Print } from './tape';
import type { DecayRow } from './theta';

/** What a spread is on a basis. */
export interface SpreadGiven {
  basis: string;
  /** The one vol of the basis for the expiry; NaN where legs expire apart. */
  vol: number;
  /** One deviation on it. */
  move: number;
  snapshot: LoadedSnapshot;
  legs: readonly PlacedLeg[];
  /** What is known of the side of each leg, in their order. */
  values: readonly LegValues[];
  priced: PricedSpread;
  payoff: Payoff | null;
  odds: SpreadOdds;
}

/** A sum over legs: each with its quantity. */
function summed(legs: readonly SpreadLeg[], of: (i: number) => number, total: number): string {
  const terms = legs.map(({ quantity }, i) => `${signed(quantity)}\\cdot${signed(of(i))}`);
  return `${terms.join(' + ')} = ${number(total)}`;
}

/** What a spread is worth, costs and gains on a basis, leg by leg. */
export function spreadWork(given: SpreadGiven, at?: string): Work {
  const { basis, vol, move, snapshot, legs, values, priced, payoff, odds } = given;
  const valueAt = (name: keyof LegValues) => (i: number) => values[i]![name][legs[i]!.index]!;
  const quoteAt = (name: 'bid' | 'ask') => (i: number) => {
    const { slice, side, index } = legs[i]!;
    return snapshot.slices[slice]![side][name][index]!;
  };
  const isBought = (i: number) => legs[i]!.quantity > 0;
  const worst = (i: number) => quoteAt(isBought(i) ? 'ask' : 'bid')(i);
  const best = (i: number) => quoteAt(isBought(i) ? 'bid' : 'ask')(i);
  const mid = (i: number) => 0.5 * (quoteAt('bid')(i) + quoteAt('ask')(i));
  const lines: WorkingLine[] = [
    {
      key: 'value',
      words: `value of ${legs.map((leg) => legWords(leg)).join(', ')}: theory of each leg`,
      tex: `\\sum q V = ${summed(legs, valueAt('theory'), priced.value)}`,
    },
    {
      key: 'mid',
      words: 'cost at the middle; bought at the ask and sold at the bid; and the other way',
      tex: summed(legs, mid, priced.mid),
    },
    { key: 'worst', words: '', tex: summed(legs, worst, priced.worst) },
    { key: 'best', words: '', tex: summed(legs, best, priced.best) },
    {
      key: 'edge',
      words: 'edge: mid less value',
      tex: `${number(priced.mid)} - ${signed(priced.value)} = ${number(priced.mid - priced.value, 6)}`,
    },
    ...(['delta', 'gamma', 'theta', 'vega'] as const).map((name) => ({
      key: name,
      words: name,
      tex: summed(legs, valueAt(name), priced[name]),
    })),
    {
      key: 'skew',
      words:
        'for a point of 25-delta risk reversal: vega by the distance of the strike in deviations, over twice that of a wing',
      tex: `\\sum q\\,\\mathcal V\\,\\frac{x}{2 x_{25}} = ${number(priced.skew)},\\quad x_{25} = N^{-1}(0.75)`,
    },
    {
      key: 'curvature',
      words: 'for a point of 25-delta butterfly: by the square of it',
      tex: `\\sum q\\,\\mathcal V\\left(\\frac{x}{x_{25}}\\right)^2 = ${number(priced.curvature)}`,
    },
  ];
  if (payoff) {
    const ends = payoff.gains
      .map(({ from, to }) => `${number(from, 7)}\\dots${to === Infinity ? '\\infty' : number(to, 7)}`)
      .join(',\\;');
    lines.push(
      {
        key: 'even',
        words: 'it gains, when it expires and at its mid, at prices between',
        tex: ends || '\\text{–}',
      },
      { key: 'itm', words: 'odds that a leg ends in the money', tex: `P = ${number(odds.itm)}` },
      {
        key: 'touch',
        words:
          'odds that the price meets a break-even on the way, watched continuously; each by the vol at it where the basis has a curve, both by the mean of the two (absorbing barriers)',
        tex: `P = ${number(odds.touch)}`,
      },
      {
        key: 'gain',
        words: 'odds to gain: of the prices above, by the law of the basis',
        tex: `P = ${number(odds.gain)}`,
      },
    );
  }
  const { fit } = snapshot.slices[legs[0]!.slice]!;
  lines.push({
    key: 'move',
    words: 'one deviation on the vol of the basis, that at the forward where each contract has its own',
    tex: `F\\,\\sigma\\sqrt T = ${number(fit.forward)}\\cdot${number(vol)}\\cdot\\sqrt{${number(fit.years, 7)}} = ${number(move)}`,
  });
  return { title: `the spread on the ${basis} basis`, lines, at };
}

/** What a strike that is safe enough brings. */
export function targetWork(
  met: Met,
  kind: keyof typeof TARGET_WORDS,
  asked: number,
  { days, price, expiry, basis }: { days: number; price: number; expiry: string; basis: string },
): Work {
  const { side, strike, odds, delta, itm, touch, spread } = met;
  const { credit, risk, share } = returnsOf(met, price);
  return {
    title: `${shortDay(expiry)} ${figures.strike(strike)} ${side} for at most ${figures.fixed(asked, 1)} %`,
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
export function decayWork(row: DecayRow, strike: number, side: 'call' | 'put', multiplier: number): Work {
  const { expiry, vol, theory, delta, theta, vega, share, volChange, move } = row;
  return {
    title: `a day of ${shortDay(expiry)} ${figures.strike(strike)} ${side}`,
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
export function printWork({ expiry, strike, side, time, price, size, theory, bid, ask }: Print, zone: string): Work {
  return {
    title: `${figures.count(size)} ${shortDay(expiry)} ${figures.strike(strike)} ${side} at ${clockTime(time, zone)}`,
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

/** What a kept spread is worth now, has gained, and is exposed to, for all of them. */
export function keptWork(row: PricedStructure, words: string, at: string): Work {
  const { symbol, quantity, mid, now } = row;
  if (!now || now.missing !== null) return { title: `${symbol} ${words}`, lines: [] };
  const { multiplier } = now;
  const known = (value: number | null | undefined) => value ?? NaN;
  const times = `${signed(quantity)}\\cdot${number(multiplier)}`;
  const exposures = (['delta', 'theta', 'vega'] as const).map((name) => ({
    key: name,
    words: `${name} of one, on the curve, times how many there are and the units of a contract`,
    tex: `${signed(known(now[name]))}\\cdot${times} = ${number(known(now[name]) * quantity * multiplier)}`,
  }));
  return {
    title: `${symbol} ${words}`,
    lines: [
      {
        key: 'value',
        words: `value of one on the curves of ${now.asof}; its legs, picked again, show theirs`,
        tex: `\\sum q V = ${number(known(now.value))}`,
      },
      {
        key: 'mid',
        words: 'bought at the ask and sold at the bid, at the middle, and the other way',
        tex: `${number(known(now.worst))},\\quad ${number(known(now.mid))},\\quad ${number(known(now.best))}`,
      },
      {
        key: 'gain',
        words: 'its mid now less that at which it was kept, times how many there are and the units of a contract',
        tex: `(${number(known(now.mid))} - ${signed(known(mid))})\\cdot${times} = ${number(gainOf(row))}`,
      },
      ...exposures,
    ],
    at,
  };
}
