import { inViewTerms, MOVED_GREEKS, type BasisOdds, type MarketEvaluation } from '@umwelt/core';
import type { StructureAnswer, StructureRequest } from '$lib/data';
import { legWords } from '$lib/structure';
import { number, signed, type Work, type WorkingLine } from '$lib/working/lines';
import { returnOnRisk, widthOf, yearlyReturn } from './facts';
import { oddsOf } from './words';

/** What the numbers are of. */
export interface FactsGiven {
  request: StructureRequest;
  answer: StructureAnswer;
  /** Times what amounts of a unit are shown. */
  times: number;
  symbol: string;
}

/** A sum over legs: each quantity with what one of it is, and what that comes to. */
function summed(quantities: readonly number[], values: readonly number[], total: number, times: number): string {
  const terms = quantities.map((quantity, i) => `${signed(quantity)}\\cdot${signed(values[i]!)}`).join(' + ');
  return times === 1
    ? `${terms} = ${number(total)}`
    : `\\left(${terms}\\right)\\cdot${number(times)} = ${number(total * times)}`;
}

/** A limit of what is gained or lost. */
const limit = (value: number, times: number) => (value === Infinity ? '\\infty' : number(value * times));

/** How a basis comes to its odds and means. */
function oddsLines(odds: BasisOdds | undefined, key: 'curve' | 'past', words: string, times: number): WorkingLine[] {
  if (!odds) return [];
  const zones = odds.zones.map(({ probability }) => number(probability, 6)).join(' + ');
  return [
    {
      key: `odds of profit, ${key}`,
      words: `odds of a profit: those of the zones between break-evens in which it gains, by ${words}; the zones are ${zones}`,
      tex: `P(\\text{profit} > 0) = ${number(odds.profit)}`,
    },
    {
      key: `expected, ${key}`,
      words: `mean profit at the first expiry by ${words}${key === 'curve' ? ', integrated over the pieces between strikes and break-evens' : ''}`,
      tex: `E = ${key === 'curve' ? '\\int \\text{profit}(S)\\,dP' : '\\frac{1}{n}\\sum_i \\text{profit}(S_i)'} = ${number(odds.expected * times)},\\quad \\text{deviation } ${number(odds.deviation * times)}`,
    },
    {
      key: `worst twentieth, ${key}`,
      words: 'mean of the worst twentieth of all outcomes',
      tex: `\\frac{1}{0.05}\\int_{\\text{worst } 5\\,\\%} \\text{profit}\\,dP = ${number(odds.worst5 * times)}`,
    },
  ];
}

/** How the numbers of a structure come about, leg by leg. @param at the fact that was asked for */
export function factsWork({ request, answer, times, symbol }: FactsGiven, at: string): Work {
  const found = answer.evaluation;
  const { cost, entry, values, profile, capitalAtRisk, stress } = found;
  const quantities = [...request.legs.map(({ quantity }) => quantity), ...(request.held === 0 ? [] : [request.held])];
  // By the price in view they sum, of whatever delivery they are.
  const seen = found.legs.map((leg, i) => inViewTerms(leg, answer.ratios[i] ?? 1));
  const of = (pick: (leg: MarketEvaluation['legs'][number]) => number) => seen.map(pick);
  const side = (isWorst: boolean) => found.legs.map(({ bid, ask }, i) => (quantities[i]! > 0 === isWorst ? ask : bid));
  const sum = (ofOne: readonly number[], total: number) => summed(quantities, ofOne, total, times);
  /** Sums that hold the fees say so. */
  const withFees = (ofOne: readonly number[], total: number) =>
    `${sum(ofOne, total - found.fees)}${found.fees === 0 ? '' : `,\\quad + ${number(found.fees * times)} = ${number(total * times)}`}`;
  const curve = oddsOf(found, 'curve');
  const lines: WorkingLine[] = [
    {
      key: 'costs worst / mid / best',
      words:
        'bought at the ask and sold at the bid; both at the middle; and the other way; with the fees where there are any',
      tex: withFees(side(true), cost.worst),
    },
    {
      words: '',
      tex: withFees(
        of(({ bid, ask }) => 0.5 * (bid + ask)),
        cost.mid,
      ),
    },
    { words: '', tex: withFees(side(false), cost.best) },
    {
      key: 'entry',
      words:
        'what it is entered at, which profit counts from: the fill that is chosen, theory where a leg has no quote',
      tex: withFees(
        of((leg) => leg.entry),
        entry,
      ),
    },
    {
      key: 'value',
      words: 'theory of each leg on the basis, in the scenario',
      tex: sum(
        of((leg) => leg.value),
        values.value,
      ),
    },
    {
      key: 'most to gain',
      words:
        'the most of the profit at the first expiry: at a strike where all legs end together, else found by search; without an end where what is left far up gains',
      tex: `\\max_S \\text{profit}(S) = ${limit(profile.maxProfit, times)}`,
    },
    {
      key: 'most to lose',
      words: 'the least of it, as a positive amount',
      tex: `-\\min_S \\text{profit}(S) = ${limit(profile.maxLoss, times)}`,
    },
    {
      key: 'break-evens',
      words: 'prices at which the profit at the first expiry is nothing',
      tex: `\\text{profit}(S) = 0:\\quad S = ${profile.breakEvens.map((price) => number(price)).join(',\\;') || '\\text{–}'}`,
    },
    ...oddsLines(curve, 'curve', 'the law of the curve', times),
    ...(curve
      ? [
          {
            key: 'odds of the most, curve',
            words: 'odds of the prices at which all of the most to gain is kept',
            tex: `P = ${number(curve.mostProfit)}`,
          },
        ]
      : []),
    {
      key: 'half of it on the way',
      words:
        'paths on which a close before the first expiry brings half of the most to gain, over all of them: 4 000 of the vol at the money that lead to the forward, and every stretch of the past; with the standard error of so many',
      tex:
        found.half
          ?.map(
            ({ basis, probability, error }) => `P_{\\text{${basis}}} = ${number(probability)} \\pm ${number(error, 3)}`,
          )
          .join(',\\quad ') || '\\text{–}',
    },
    ...oddsLines(oddsOf(found, 'past'), 'past', 'past moves of that length, each counting the same', times),
    {
      key: 'capital at risk',
      words: Number.isFinite(profile.maxLoss)
        ? 'the most that can be lost'
        : `a loss without an end: the worst cell of the stress, of ${stress.moves.length} moves and ${stress.volFactors.length} vols`,
      tex: `${number(capitalAtRisk * times)}`,
    },
    {
      key: 'return on risk',
      words:
        'the most to gain over the capital at risk; over the years to the first expiry it is that of a year, as simple interest',
      tex: `\\frac{${limit(profile.maxProfit, times)}}{${number(capitalAtRisk * times)}} = ${number(returnOnRisk(found))},\\quad \\frac{1}{${number(found.horizon ?? NaN, 6)}}\\cdot${number(returnOnRisk(found))} = ${number(yearlyReturn(found))}`,
    },
    {
      key: 'cost of the width',
      words: 'what is paid or taken in over what lies between the most gained and the most lost',
      tex: `\\frac{${number(Math.abs(entry) * times)}}{${limit(profile.maxProfit, times)} + ${limit(profile.maxLoss, times)}} = ${number(Math.abs(entry) / widthOf(found))}`,
    },
    {
      key: 'cost per delta',
      words: 'what is paid over the delta that it brings',
      tex: `\\frac{${number(entry * times)}}{${number(values.delta)}} = ${number((entry / values.delta) * times)}`,
    },
    {
      key: 'theta per vega',
      words: 'a day over a point of vol, whichever way that goes',
      tex: `\\frac{${number(values.theta)}}{|${number(values.vega)}|} = ${number(values.theta / Math.abs(values.vega))}`,
    },
    {
      key: 'vol bought / sold',
      words: 'vols of what is bought, and of what is sold, weighted by quantity and vega',
      tex: `\\frac{\\sum |q\\,\\mathcal V|\\,\\sigma}{\\sum |q\\,\\mathcal V|} = ${number(found.volBought)},\\quad ${number(found.volSold)}`,
    },
    ...MOVED_GREEKS.map((name) => ({
      key: name as string,
      words: `${name}: of each leg, along what vols stick to as the price moves`,
      tex: sum(
        of((leg) => leg[name]),
        values[name],
      ),
    })),
  ];
  const legs = request.legs.map((leg) => legWords(leg)).join(', ');
  return { title: `${symbol} ${legs}`, lines, at };
}
