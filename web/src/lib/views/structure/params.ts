import { DYNAMICS, MOVED_GREEKS, type Dynamics, type NamedLeg } from '@umwelt/core';
import { legsParam } from '$lib/address';
import { defineParams, flag, numberIn, oneOf } from '$lib/address/params';

/** What is drawn along the price. */
export const QUANTITIES = ['profit', ...MOVED_GREEKS] as const;
export type Quantity = (typeof QUANTITIES)[number];

export const FILLS = ['worst', 'mid', 'best'] as const;
export type FillName = (typeof FILLS)[number];

/** Whether amounts are for a unit of the underlying, times the multiplier, or, where they are drawn, per cent of the capital at risk. */
export const UNITS = ['unit', 'money', 'risk'] as const;
export type Unit = (typeof UNITS)[number];

const MOST_PRICE = 1e9;
/** More is no fee. */
export const MOST_FEE = 1000;

/** How far sliders go: points of vol, points of the 25-delta risk reversal. */
export const MOST_VOL = 15;
export const MOST_SKEW = 6;
/** Days that an address may say; a structure goes no further than its horizon. */
const MOST_DAYS = 2000;

/** Along what it is drawn: the price, the vol, price and date as a map, or leg by leg. */
export const PICTURES = ['price', 'vol', 'map', 'legs'] as const;
export type Picture = (typeof PICTURES)[number];

/** What is under the profile. */
export const UNDERS = ['stress', 'greeks', 'kept', 'traded'] as const;
export type Under = (typeof UNDERS)[number];

export interface StructureParams {
  pictured: Picture;
  under: Under;
  drawn: Quantity;
  fill: FillName;
  /** Of a contract, in money. */
  fee: number;
  unit: Unit;
  /** The scenario: days from the moment in view, points of vol and of skew. */
  days: number;
  volPoints: number;
  skewPoints: number;
  dynamics: Dynamics;
  /** Whether announcements take their variance with them. */
  hasEvents: boolean;
  /** The price of the underlying that it is quoted at; 0 where it follows the market. */
  tied: number;
  /** Another structure that stands beside. */
  before: readonly NamedLeg[];
}

export const PARAMS = defineParams<StructureParams>(
  {
    pictured: oneOf('along', PICTURES, 'price'),
    under: oneOf('under', UNDERS, 'stress'),
    drawn: oneOf('draw', QUANTITIES, 'profit'),
    fill: oneOf('fill', FILLS, 'mid'),
    fee: numberIn('fee', [0, MOST_FEE], 0),
    unit: oneOf('in', UNITS, 'money'),
    days: numberIn('days', [0, MOST_DAYS], 0, true),
    volPoints: numberIn('volshift', [-MOST_VOL, MOST_VOL], 0),
    skewPoints: numberIn('skewshift', [-MOST_SKEW, MOST_SKEW], 0),
    dynamics: oneOf('dynamics', DYNAMICS, 'strike'),
    hasEvents: flag('events', 'even', true),
    tied: numberIn('tied', [0, MOST_PRICE], 0),
    before: legsParam('before'),
  },
  { ofUnderlying: ['days', 'tied', 'before'] },
);
