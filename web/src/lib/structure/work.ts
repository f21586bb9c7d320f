import type { LegValues, Payoff, PlacedLeg, PricedStructure, StructureOdds } from '@umwelt/core';
import type { LoadedSnapshot } from '$lib/data';
import { number, signed, type Work, type WorkingLine } from '$lib/working/lines';
import { legWords } from './picked';

/** What a structure is on a basis. */
export interface StructureGiven {
  basis: string;
  /** The one vol of the basis for the expiry; NaN where legs expire apart. */
  vol: number;
  /** One deviation on it. */
  move: number;
  snapshot: LoadedSnapshot;
  legs: readonly PlacedLeg[];
  /** What each leg is worth, in their order. */
  values: readonly LegValues[];
  priced: PricedStructure;
  payoff: Payoff | null;
  odds: StructureOdds;
}

/** A sum over legs: each with its quantity. */
function summed(legs: readonly PlacedLeg[], of: (i: number) => number, total: number): string {
  const terms = legs.map(({ quantity }, i) => `${signed(quantity)}\\cdot${signed(of(i))}`);
  return `${terms.join(' + ')} = ${number(total)}`;
}

/** What a structure is worth, costs and gains on a basis, leg by leg. */
export function structureWork(given: StructureGiven, at?: string): Work {
  const { basis, vol, move, snapshot, legs, values, priced, payoff, odds } = given;
  const valueAt = (name: keyof LegValues) => (i: number) => values[i]![name];
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
  return { title: `the structure on the ${basis} basis`, lines, at };
}
