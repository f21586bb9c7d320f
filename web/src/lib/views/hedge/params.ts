import { expiryName, namedExpiry, type NamedLeg } from '@umwelt/core';
import { legsParam } from '$lib/address';
import { defineParams, numberIn, oneOf, type Param } from '$lib/address/params';

/** Sensitivities that are shown, and can be brought to a number. */
export const GREEKS = ['delta', 'gamma', 'vega', 'theta', 'vanna', 'volga'] as const;
export type Greek = (typeof GREEKS)[number];
/** What can be brought to a number: a Greek, the lean in points of the 25-delta risk reversal, or the vega of one expiry. */
export type Target = Greek | 'skew' | `vega@${string}`;
export type Amounts = Readonly<Partial<Record<Target, number>>>;

/** The vega of an expiry by its name. */
export const vegaOf = (expiry: string): Target => `vega@${expiry}`;

/** The expiry whose vega alone is meant; null of all else. */
export const expiryOf = (target: string): string | null => /^vega@(.+)$/.exec(target)?.[1] ?? null;

/** A target by its word. */
function targetOf(word: string): Target | null {
  const known = [...GREEKS, 'skew' as const].find((one) => one === word);
  const expiry = namedExpiry(expiryOf(word) ?? '');
  return known ?? (expiry ? vegaOf(expiryName(expiry)) : null);
}

const MOST_TARGETS = 16;
/** Targets, each once, in the order in which they are named. */
const targets = (name: string, usual: readonly Target[]): Param<readonly Target[]> => ({
  name,
  usual,
  read: (text) => {
    const named = (text ?? '').split(',').flatMap((word) => targetOf(word) ?? []);
    return named.length > 0 ? [...new Set(named)].slice(0, MOST_TARGETS) : usual;
  },
  write: (value) => value.join() || null,
});

/** Where the exposure comes from: the legs in hand, a kept structure, or what is typed. */
export const SOURCES = ['structure', 'kept', 'typed'] as const;
export type Source = (typeof SOURCES)[number];

export const COUNTS = ['whole', 'exact'] as const;
export type Count = (typeof COUNTS)[number];

/**
 * What is least where more contracts would do than are needed: contracts, what crossing their spreads costs, or what is left of
 * profit (its squares) by moves of two deviations and five points of vol.
 */
export const CHOICES = ['fewest', 'cheapest', 'steadiest'] as const;
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

/** Amounts by target such as `gamma:-2.5,vega@2031-04-17:-900`. */
const amounts = (name: string): Param<Amounts> => ({
  name,
  usual: {},
  read: (text) =>
    Object.fromEntries(
      (text ?? '').split(',').flatMap((one): [Target, number][] => {
        const [word = '', digits] = one.split(':');
        const [target, amount] = [targetOf(word), Number(digits || NaN)];
        return target && Math.abs(amount) <= MOST_AMOUNT && amount !== 0 ? [[target, amount]] : [];
      }),
    ),
  write: (value) =>
    Object.entries(value)
      .flatMap(([target, amount]) => (amount ? [`${target}:${amount}`] : []))
      .sort()
      .join() || null,
});

export interface HedgeParams {
  source: Source;
  /** Of the kept structure; 0 where none has been chosen. */
  keptId: number;
  /** Of the position, where it is typed. */
  typed: Amounts;
  /** What is to be brought to its aim. */
  wanted: readonly Target[];
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
    wanted: targets('neutralize', ['delta', 'gamma']),
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
