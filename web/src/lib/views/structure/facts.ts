import type { BasisOdds } from '@umwelt/core';
import type { ToldEvaluation } from '$lib/data';
import { figures } from '$lib/formats';
import { oddsOf } from './words';

/** How amounts and prices are written. */
export interface Written {
  /** Times what amounts of a unit are shown. */
  times: number;
  /** Decimals of amounts. */
  digits: number;
  /** Decimals of prices. */
  decimals: number;
}

/** Something that is known of a structure. */
export interface Fact {
  name: string;
  title: string;
  text: (found: ToldEvaluation) => string;
  /** What it is as a number, and how a change of it is written; without them where a change says nothing. */
  value?: (found: ToldEvaluation) => number;
  change?: (by: number) => string;
}

/** What is between the most that is gained and lost: the distance of the strikes, of what has wings on either side. */
export const widthOf = ({ profile }: ToldEvaluation) => profile.maxProfit + profile.maxLoss;

export const returnOnRisk = ({ profile, capitalAtRisk }: ToldEvaluation) => profile.maxProfit / capitalAtRisk;

/** Return on risk a year, as simple interest, until the first expiry. */
export const yearlyReturn = (found: ToldEvaluation) =>
  found.horizon !== null && found.horizon > 0 ? returnOnRisk(found) / found.horizon : NaN;

/** The facts of a structure, in their order. */
export function factsOf({ times, digits, decimals }: Written): readonly Fact[] {
  const money = (value: number | undefined) =>
    value === Infinity ? 'no end' : figures.fixed(value === undefined ? null : value * times, digits);
  const signed = (value: number) => figures.signed(value * times, digits);
  const points = (by: number) => figures.signed(100 * by, 1);
  const share = (value: number) => figures.percent(Number.isFinite(value) ? value : null);
  const odds =
    (basis: BasisOdds['basis'], field: 'profit' | 'mostProfit' | 'expected' | 'worst5') => (found: ToldEvaluation) =>
      oddsOf(found, basis)?.[field] ?? NaN;
  const amount = (name: string, title: string, value: (found: ToldEvaluation) => number): Fact => ({
    ...{ name, title, value, text: (found) => money(value(found)), change: signed },
  });
  const chance = (name: string, title: string, value: (found: ToldEvaluation) => number): Fact => ({
    ...{ name, title, value, text: (found) => share(value(found)), change: points },
  });
  const mean = (name: string, title: string, value: (found: ToldEvaluation) => number): Fact => ({
    ...{ name, title, value, text: (found) => signed(value(found)), change: signed },
  });
  return [
    {
      ...{ name: 'costs worst / mid / best', title: 'positive where money is paid' },
      text: ({ cost }) => [cost.worst, cost.mid, cost.best].map(money).join(' / '),
    },
    amount('value', 'on the basis', ({ values }) => values.value),
    amount('most to gain', 'at the first expiry', ({ profile }) => profile.maxProfit),
    amount('most to lose', 'at the first expiry', ({ profile }) => profile.maxLoss),
    {
      ...{ name: 'break-evens', title: 'at the first expiry' },
      text: ({ profile }) => profile.breakEvens.map((price) => figures.fixed(price, decimals)).join(' · ') || '–',
    },
    chance('odds of profit, curve', 'by the law of the curve', odds('curve', 'profit')),
    chance('odds of profit, past', 'by past moves of that length', odds('past', 'profit')),
    chance(
      'odds of the most, curve',
      'that all of the most to gain is kept, by the law of the curve',
      odds('curve', 'mostProfit'),
    ),
    {
      name: 'half of it on the way',
      title:
        'odds that a close before the first expiry brings half of the most to gain, by the vol at the money and by past moves',
      text: ({ half }) => {
        if (half === null) return '…';
        const by = (basis: string) => half.find((one) => one.basis === basis)?.probability ?? NaN;
        return half.length > 0 ? `${share(by('level'))} / ${share(by('past'))}` : '–';
      },
    },
    mean('expected, curve', 'mean profit by the law of the curve', odds('curve', 'expected')),
    mean('expected, past', 'mean profit by past moves of that length', odds('past', 'expected')),
    mean('worst twentieth, curve', 'mean of the worst twentieth of outcomes', odds('curve', 'worst5')),
    {
      ...{ name: 'return on risk', title: 'most to gain over the capital at risk; a year of it as simple interest' },
      text: (found) =>
        Number.isFinite(returnOnRisk(found))
          ? `${share(returnOnRisk(found))}, ${share(yearlyReturn(found))} a year`
          : '–',
    },
    {
      ...{
        name: 'cost of the width',
        title: 'what is paid or taken in as a share of what lies between the most gained and lost',
      },
      text: (found) => share(Number.isFinite(widthOf(found)) ? Math.abs(found.entry) / widthOf(found) : NaN),
    },
    amount(
      'capital at risk',
      'the most that can be lost; the worst cell of the stress where that has no end',
      ({ capitalAtRisk }) => capitalAtRisk,
    ),
    {
      ...{ name: 'cost per delta', title: 'what is paid for a delta of one; negative where money is taken in for it' },
      text: ({ entry, values }) => money(Math.abs(values.delta) > LEAST_DELTA ? entry / values.delta : NaN),
    },
    {
      ...{ name: 'theta per vega', title: 'what a day brings for each point of vol that is owed or owned' },
      text: ({ values }) => figures.signed(Math.abs(values.vega) > 0 ? values.theta / Math.abs(values.vega) : NaN, 3),
    },
    {
      ...{ name: 'vol bought / sold', title: 'mean vols weighted by vega' },
      text: ({ volBought, volSold }) => `${figures.vol(volBought)} / ${figures.vol(volSold)}`,
    },
  ];
}

/** Less delta than that is none to speak of. */
const LEAST_DELTA = 0.05;
