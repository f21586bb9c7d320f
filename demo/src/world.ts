import { calendarById } from '@umwelt/core';

/** The exchange of the Meridian Isles, and the moments at which its market is quoted. */
export const CALENDAR = calendarById('MRX');
export const CLOCK = {
  lastDay: '2031-03-13',
  /** Sessions before the last one, each with a bar and a chain. */
  sessions: 260,
  /** Days on which everything is quoted every quarter of an hour: an announcement at 14:00, and the last. */
  fullDays: ['2030-12-19', '2031-03-13'],
};

/** A session has so many quarters of an hour; its snapshot comes before the last. */
export const QUARTERS = 26;

/** A sell-off of the whole island: vol is up by this factor on the day and falls back over some sessions. */
export const SELL_OFF = { day: '2030-07-16', move: -0.055, volFactor: 1.9 };

/** An announcement that moves a price: at this moment the price jumps by a normal of this deviation. */
export interface WorldEvent {
  day: string;
  time: string;
  title: string;
  kind: string;
  jump: number;
  /** How far it really went, in deviations, where the story says so. */
  turnedOut?: number;
  /** A yes or a no, each with its move (as a share of the price): two humps instead of one bell. */
  humps?: { up: number; down: number };
}

/** A change of a path that the story tells, on a day at the open. */
export interface Turn {
  day: string;
  /** Log move of the price. */
  move: number;
  /** From then on the level of vol is multiplied by this. */
  volFactor?: number;
  /** From then on the tilt of the skew. */
  rho?: number;
}

/** A split, with so many new shares for an old one, or a special dividend of so much; at the open of a day. */
export interface Adjustment {
  exDate: string;
  kind: 'split' | 'special';
  amount: number;
}

/** Everything that makes one underlying what it is. Vols and rates are decimals per year. */
export interface UnderlyingSpec {
  symbol: string;
  name: string;
  kind: 'index' | 'etf' | 'equity' | 'future' | 'fx';
  currency: string;
  multiplier: number;
  exercise: 'european' | 'american';
  family: string;
  familyRatio: number;
  /** Product of a future, and the day it is delivered; of a share that it is listed no longer. */
  root?: string;
  expires?: string;
  /** Price at the last moment of the world; the whole path is scaled to it. */
  lastPrice: number;
  priceTick: number;
  /** Smallest step of an option price under and from three units of price. */
  optionTick: [number, number];
  /** Shares of the island's factor and of the water's in the moves, as correlations. */
  factors: { island: number; water?: number };
  /** Log drift of the price over a year. */
  drift: number;
  vol: {
    level: number;
    /** Level at the beginning as a multiple of the one at the end. */
    levelAtStart: number;
    /** Share by which the level is over its mean in midwinter. */
    season: number;
    /** Speed of the return to the level, per year. */
    reversion: number;
    /** Deviation of the log of vol over a year, before the return. */
    wander: number;
    /** What a fall of one deviation adds to the log of vol. */
    leverage: number;
    /** Implied over the vol that drives the price. */
    premium: number;
    /** Vol on the last day, as a share of the level: where the story has to end. */
    lastShare: number;
  };
  /** Tilt and curvature of the skew (Gatheral and Jacquier's power law); the tilt wanders, and may swing. */
  skew: { rho: number; eta: number; wander: number; swing?: { size: number; turns: number } };
  turns: Turn[];
  /** Continuous yield of an index, foreign rate of a currency; shares pay the cash dividends below. */
  yield: number;
  dividends: { exDate: string; amount: number }[];
  events: WorldEvent[];
  /** Which expiries trade: how many weeklies, monthlies and quarterlies within so many days, one every session. */
  expiries: { weeklies: number; monthlyDays: number; quarterlyDays: number; dailies: number };
  /** A day on which two series expire: one that settles in the morning, one in the afternoon. */
  settledTwice?: string;
  /** Strikes are multiples of the step, moved by the offset. */
  strikes: { step: number; offset: number; most: number };
  /** Half spread at the money, in vol. */
  halfSpread: number;
  /** Contracts a day over the whole chain, roughly, and how many puts are traded for a call. */
  activity: number;
  putCall: number;
  /** Days of its own that are quoted every quarter of an hour. */
  fullDays: string[];
  /** A session whose chain is missing. */
  missingDay?: string;
  /** A session in which it is not traded: it has neither a chain nor a bar. */
  haltedDay?: string;
  /** What contracts that were listed before are adjusted for. */
  adjustment?: Adjustment;
  /** An expiry whose quotes speak of another price than all others. */
  brokenExpiry?: string;
}

/** An underlying whose path is that of another, seen otherwise. */
export interface Follower {
  spec: UnderlyingSpec;
  of: string;
  price: (price: number, day: string) => number;
  /** Multiplies vol and its level on a day. */
  volFactor: (day: string) => number;
  /** Correlation of its moves with those of the path, on a day; without it they are the same. */
  alike?: (day: string) => number;
  /** −1 where up and down are exchanged. */
  sign: 1 | -1;
}

const DAY = 86_400_000;

/** Years of 365 days between two days. */
export function yearsFrom(day: string, later: string): number {
  return (Date.parse(later) - Date.parse(day)) / DAY / 365;
}
