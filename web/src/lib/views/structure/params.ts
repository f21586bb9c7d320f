import {
  type Fill,
  DYNAMICS,
  expiryName,
  MOVED_GREEKS,
  namedExpiry,
  VOL_SCALES,
  type Dynamics,
  type NamedLeg,
  type VolScale,
} from '@umwelt/core';
import { legsParam } from '$lib/address';
import { defineParams, flag, numberIn, numbers, oneOf, type Param } from '$lib/address/params';

/** What is drawn along the price. */
export const QUANTITIES = ['profit', ...MOVED_GREEKS] as const;
export type Quantity = (typeof QUANTITIES)[number];

export const FILLS = ['worst', 'mid', 'best'] as const;

/** In per cent of the half spread over the middle. */
const MOST_SLIP = 100;

/** At what legs are entered: a word, or a share of the half spread in per cent. */
const fill: Param<Fill> = {
  name: 'fill',
  usual: 'mid',
  read: (text) => {
    const share = Number(text || NaN);
    if (Math.abs(share) <= MOST_SLIP) return { slippage: share / 100 };
    return FILLS.find((one) => one === text) ?? 'mid';
  },
  write: (value) => (typeof value === 'string' ? value : String(Math.round(1e4 * value.slippage) / 100)),
};

/** Whether amounts are for a unit of the underlying, times the multiplier, or, where they are drawn, per cent of the capital at risk. */
export const UNITS = ['unit', 'money', 'risk'] as const;
export type Unit = (typeof UNITS)[number];

/** More is no price. */
export const MOST_PRICE = 1e9;
/** More is no fee. */
export const MOST_FEE = 1000;

/** How far sliders go: points of vol, points of the 25-delta risk reversal. */
export const MOST_VOL = 15;
export const MOST_SKEW = 6;
/** Of the price, in per cent of it; of rates, in points. */
export const MOVE_RANGE = [-90, 300] as const;
export const MOST_RATE = 10;
/** Days that an address may say; a structure goes no further than its horizon. */
const MOST_DAYS = 2000;
/** Dates between today and the first expiry that have a curve. */
export const MOST_DATES = 2;

/** Along what it is drawn: the price, the vol, price and date as a map, or leg by leg. */
export const PICTURES = ['price', 'vol', 'map', 'legs'] as const;
export type Picture = (typeof PICTURES)[number];

/** What is under the profile. */
export const UNDERS = ['stress', 'greeks', 'kept', 'traded', 'hedged'] as const;
export type Under = (typeof UNDERS)[number];

/** Points of vol by the name of the expiry. */
export type ExpiryShifts = Readonly<Record<string, number>>;

/** Shifts of single expiries such as `2031-04-17:1.5,2031-05-15am:-2`. */
const expiryShifts: Param<ExpiryShifts> = {
  name: 'volshifts',
  usual: {},
  read: (text) =>
    Object.fromEntries(
      (text ?? '').split(',').flatMap((one): [string, number][] => {
        const [name = '', digits] = one.split(':');
        const [expires, points] = [namedExpiry(name), Number(digits || NaN)];
        return expires && Math.abs(points) <= MOST_VOL && points !== 0 ? [[expiryName(expires), points]] : [];
      }),
    ),
  write: (value) =>
    Object.entries(value)
      .map(([name, points]) => `${name}:${points}`)
      .join() || null,
};

export interface StructureParams {
  pictured: Picture;
  under: Under;
  drawn: Quantity;
  fill: Fill;
  /** Of a contract, in money. */
  fee: number;
  unit: Unit;
  /** The scenario: days from the moment in view, points of vol and of skew. */
  days: number;
  volPoints: number;
  skewPoints: number;
  volScale: VolScale;
  volShifts: ExpiryShifts;
  /** Of the price, in per cent of it; of the rate, in points. */
  movePercent: number;
  ratePoints: number;
  dynamics: Dynamics;
  /** Whether announcements take their variance with them. */
  hasEvents: boolean;
  /** Ends of the axis of prices; 0 where it is left to the structure. */
  axisFrom: number;
  axisTo: number;
  /** Days to the dates of the curves between today and the first expiry; none for its thirds. */
  dates: readonly number[];
  /** Whether odds have a strip for every basis. */
  hasAllStrips: boolean;
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
    fill,
    fee: numberIn('fee', [0, MOST_FEE], 0),
    unit: oneOf('in', UNITS, 'money'),
    days: numberIn('days', [0, MOST_DAYS], 0, true),
    volPoints: numberIn('volshift', [-MOST_VOL, MOST_VOL], 0),
    skewPoints: numberIn('skewshift', [-MOST_SKEW, MOST_SKEW], 0),
    volScale: oneOf('volscale', VOL_SCALES, 'parallel'),
    volShifts: expiryShifts,
    movePercent: numberIn('move', MOVE_RANGE, 0),
    ratePoints: numberIn('rateshift', [-MOST_RATE, MOST_RATE], 0),
    dynamics: oneOf('dynamics', DYNAMICS, 'strike'),
    hasEvents: flag('events', 'even', true),
    axisFrom: numberIn('pricefrom', [0, MOST_PRICE], 0),
    axisTo: numberIn('priceto', [0, MOST_PRICE], 0),
    dates: numbers('dates', [1, MOST_DAYS], MOST_DATES, []),
    hasAllStrips: flag('strips', 'all'),
    tied: numberIn('tied', [0, MOST_PRICE], 0),
    before: legsParam('before'),
  },
  { ofUnderlying: ['days', 'volShifts', 'axisFrom', 'axisTo', 'dates', 'tied', 'before'] },
);
