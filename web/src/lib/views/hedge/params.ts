import type { NamedLeg } from '@umwelt/core';
import { legsParam } from '$lib/address';
import { defineParams, numberIn, oneOf, someOf, type Param } from '$lib/address/params';

/** Sensitivities that are shown, and can be brought to a number. */
export const GREEKS = ['delta', 'gamma', 'vega', 'theta', 'vanna', 'volga'] as const;
export type Greek = (typeof GREEKS)[number];
export type Amounts = Readonly<Partial<Record<Greek, number>>>;

/** Where the exposure comes from: the legs in hand, a kept structure, or what is typed. */
export const SOURCES = ['structure', 'kept', 'typed'] as const;
export type Source = (typeof SOURCES)[number];

export const COUNTS = ['whole', 'exact'] as const;
export type Count = (typeof COUNTS)[number];

/** What is least where more contracts would do than are needed: contracts, or what crossing their spreads costs. */
export const CHOICES = ['fewest', 'cheapest'] as const;
export type Choice = (typeof CHOICES)[number];

/** What is told of each place of the grid of price and vol. */
export const LEFTS = ['profit', ...GREEKS] as const;
export type Left = (typeof LEFTS)[number];

const MOST_ID = 2 ** 31;
const MOST_HELD = 1e7;

/** What is under the steps: how the hedge holds, or what hedging would have brought before. */
export const BELOWS = ['ahead', 'past'] as const;
export type Below = (typeof BELOWS)[number];

export const MOST_AMOUNT = 1e12;
export const MOST_AHEAD = 60;

/** Amounts by Greek such as `gamma:-2.5,vega:-900`. */
const amounts = (name: string): Param<Amounts> => ({
  name,
  usual: {},
  read: (text) =>
    Object.fromEntries(
      (text ?? '').split(',').flatMap((one): [Greek, number][] => {
        const [word, digits] = one.split(':');
        const [greek, amount] = [GREEKS.find((known) => known === word), Number(digits || NaN)];
        return greek && Math.abs(amount) <= MOST_AMOUNT && amount !== 0 ? [[greek, amount]] : [];
      }),
    ),
  write: (value) => GREEKS.flatMap((greek) => (value[greek] ? [`${greek}:${value[greek]}`] : [])).join() || null,
});

export interface HedgeParams {
  source: Source;
  /** Of the kept structure; 0 where none has been chosen. */
  keptId: number;
  /** Of the position, where it is typed. */
  typed: Amounts;
  /** What is to be brought to its aim. */
  wanted: readonly Greek[];
  /** What each is to become; nothing unless it is said. */
  aims: Amounts;
  /** How far each may be off before one trades again. */
  bands: Amounts;
  count: Count;
  choice: Choice;
  /** Contracts beside those that are suggested, and those that are not to be taken. */
  added: readonly NamedLeg[];
  excluded: readonly NamedLeg[];
  /** Days after which it is looked at what is left. */
  ahead: number;
  below: Below;
  /** What is told by price and vol. */
  leftOver: Left;
  /** Trades of another hedge, which this one is held against: contracts, and units of the underlying. */
  against: readonly NamedLeg[];
  againstHeld: number;
}

export const PARAMS = defineParams<HedgeParams>(
  {
    source: oneOf('exposed', SOURCES, 'structure'),
    keptId: numberIn('exposedid', [0, MOST_ID], 0, true),
    typed: amounts('exposure'),
    wanted: someOf('neutralize', GREEKS, ['delta', 'gamma']),
    aims: amounts('aims'),
    bands: amounts('bands'),
    count: oneOf('contracts', COUNTS, 'whole'),
    choice: oneOf('choose', CHOICES, 'fewest'),
    added: legsParam('with'),
    excluded: legsParam('without'),
    below: oneOf('hedgebelow', BELOWS, 'ahead'),
    leftOver: oneOf('hedgeleft', LEFTS, 'profit'),
    against: legsParam('hedgeagainst'),
    againstHeld: numberIn('hedgeagainstheld', [-MOST_HELD, MOST_HELD], 0),
    ahead: numberIn('ahead', [0, MOST_AHEAD], 7, true),
  },
  { ofUnderlying: ['added', 'excluded', 'keptId', 'against', 'againstHeld'] },
);
