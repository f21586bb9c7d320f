import { PROFIT_PARTS, type ProfitPart } from '@umwelt/core';
import type { Explained } from '$lib/book';
import { figures, type Sentence } from '$lib/formats';
import type { Method } from './params';

/** A line of the picture: what it is, from where to where it goes, and how much it is. */
export interface Step {
  key: string;
  label: string;
  title: string;
  from: number;
  to: number;
  amount: number;
}

const NAMES: Record<ProfitPart, readonly [label: string, title: string, words: string]> = {
  price: ['price', 'what the move of the price brought, by revaluation', 'moves of the price'],
  time: ['time', 'the passing of time, with variance passing evenly', 'time'],
  events: ['events', 'announcements: the variance that they took along, or that was kept for them', 'announcements'],
  level: ['vol level', 'the change of vol at the forward', 'the change of vols'],
  skew: ['skew', 'the change of the lean, by the 25-delta risk reversal', 'the lean'],
  curvature: ['curvature', 'the rest of the change of the curve', 'the shape of the curves'],
  carry: ['carry', 'rates, forwards, dividends', 'carry'],
  fills: [
    'fills, fees',
    'what was traded: from its price to what it was worth at the moment after, and fees',
    'trades and their fees',
  ],
  rest: ['quotes, left', 'mids against their curves', 'quotes'],
};

/** Amounts by part, as a method has them; parts of nothing are left out. */
function amountsOf(
  explained: Explained,
  method: Method,
): { key: string; label: string; title: string; amount: number }[] {
  const { byGreeks, parts, rest } = explained;
  const rows = parts.flatMap(({ name, inTurn, byGreeks: estimated }) => {
    const [label, title] = NAMES[name];
    if (name !== 'price') return [{ key: name, label, title, amount: method === 'greeks' ? estimated : inTurn }];
    // Delta is what the first Greek says, all else of the price what it does not.
    const more = method === 'greeks' ? byGreeks.gamma : inTurn - byGreeks.delta;
    return [
      { key: 'delta', label: 'delta', title: 'delta of the begin × the move', amount: byGreeks.delta },
      {
        key: 'gamma',
        label: method === 'greeks' ? 'gamma' : 'gamma and higher',
        title: method === 'greeks' ? '½ Γ ΔS²' : 'what the move of the price brought beyond delta',
        amount: more,
      },
    ];
  });
  const [label, title] = NAMES.rest;
  if (method !== 'greeks') return [...rows, { key: 'rest', label, title, amount: rest }];
  return [
    ...rows,
    {
      key: 'cross',
      label: 'cross terms',
      title: 'vanna, charm and veta: what two changes do together',
      amount: byGreeks.cross,
    },
    {
      key: 'rest',
      label: 'left',
      title: 'terms of higher order, and mids against their curves',
      amount: byGreeks.rest,
    },
  ];
}

/** What brought a change, each from where the one before has come to. */
export function stepsOf(explained: Explained, method: Method): Step[] {
  let reached = 0;
  return amountsOf(explained, method)
    .filter(({ amount }) => Math.abs(amount) >= 0.5)
    .map(({ amount, ...row }) => {
      const from = reached;
      reached += amount;
      return { ...row, amount, from, to: reached };
    });
}

/** The same of one family alone. */
export function ofFamily(explained: Explained, family: string): Explained {
  const legs = explained.legs.filter((leg) => leg.family === family);
  const sum = (of: (leg: Explained['legs'][number]) => number) => legs.reduce((all, leg) => all + of(leg), 0);
  const among = new Set(legs.map(({ position }) => position));
  return {
    ...explained,
    legs,
    change: sum(({ change }) => change),
    parts: explained.parts.map(({ name }) => ({
      name,
      inTurn: sum(({ parts }) => parts[name]),
      byGreeks: sum(({ byGreeks }) => byGreeks[name]),
    })),
    rest: sum(({ parts }) => parts.rest),
    byGreeks: {
      delta: sum(({ delta }) => delta),
      gamma: sum(({ gamma }) => gamma),
      cross: sum(({ cross }) => cross),
      rest: sum(({ byGreeks }) => byGreeks.rest),
    },
    positions: explained.positions.filter(({ id }) => among.has(id)),
  };
}

/** Families of which something has changed. */
export const familiesOf = (explained: Explained | null): string[] =>
  [...new Set((explained?.legs ?? []).map(({ family }) => family))].sort();

const MOST_NAMED = 3;

/** What positions made most of the change: one that brought, and one that cost. */
function positionsWords(explained: Explained, nameOf: (id: number) => string): string {
  const sorted = [...explained.positions].sort((a, b) => b.change - a.change);
  const [most, least] = [sorted[0], sorted.at(-1)];
  if (!most || !least || most === least) return '';
  const words = [
    ...(most.change >= 0.5 ? [`${nameOf(most.id)} brought ${figures.count(most.change)}`] : []),
    ...(least.change <= -0.5 ? [`${nameOf(least.id)} cost ${figures.count(-least.change)}`] : []),
  ];
  return words.length > 0 ? ` ${words.join(', ')}.` : '';
}

/**
 * What did it, in a sentence.
 *
 * @param who the book, or a position
 * @param nameOf positions by their numbers
 */
export function explainedSentence(
  explained: Explained,
  who: string,
  since: string,
  nameOf: (id: number) => string,
): Sentence {
  const { change, parts } = explained;
  const verb = change >= 0 ? 'gained' : 'lost';
  const lead = `${who} ${verb} ${figures.count(Math.abs(change))} since ${since}:`;
  const named = [...parts]
    .filter(({ inTurn }) => Math.abs(inTurn) >= 0.5)
    .sort((a, b) => Math.abs(b.inTurn) - Math.abs(a.inTurn))
    .slice(0, MOST_NAMED)
    .map(({ name, inTurn }) => {
      const words = NAMES[name][2];
      return `${words} ${inTurn >= 0 ? 'gave' : 'took'} ${figures.count(Math.abs(inTurn))}`;
    });
  if (named.length === 0) return { lead, rest: 'nothing has moved.' };
  const last = named.pop()!;
  const told = `${named.length > 0 ? `${named.join(', ')} and ` : ''}${last}.`;
  return { lead, rest: `${told}${positionsWords(explained, nameOf)}` };
}

/** Parts of a stretch that bars are stacked of, in their order. */
export const STACKED = PROFIT_PARTS;
export const partLabel = (part: ProfitPart): string => NAMES[part][0];
