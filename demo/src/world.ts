/** An announcement that moves a price: at this moment the price jumps by a normal of this deviation. */
export interface WorldEvent {
  day: string;
  time: string;
  title: string;
  kind: string;
  jump: number;
}

/** Everything that makes one underlying what it is. Vols and rates are decimals per year. */
export interface UnderlyingSpec {
  symbol: string;
  name: string;
  kind: 'index' | 'equity';
  multiplier: number;
  exercise: 'european' | 'american';
  family: string;
  /** Price at the last moment of the world; the whole path is scaled to it. */
  lastPrice: number;
  priceTick: number;
  /** Smallest step of an option price under and from three crowns. */
  optionTick: [number, number];
  /** Share of the island factor in the moves, as a correlation. */
  islandShare: number;
  vol: {
    level: number;
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
  /** Tilt and curvature of the skew (Gatheral and Jacquier's power law), and how much the tilt wanders. */
  skew: { rho: number; eta: number; wander: number };
  /** Continuous yield of an index; shares pay the cash dividends below. */
  yield: number;
  dividends: { exDate: string; amount: number }[];
  events: WorldEvent[];
  weeklies: number;
  /** Strikes are multiples of this. */
  strikeStep: number;
  /** Half spread at the money, in vol. */
  halfSpread: number;
  /** Contracts a day over the whole chain, roughly. */
  activity: number;
}

/** A sell-off of the whole island: vol is up by this factor on the day and falls back over some sessions. */
export const SELL_OFF = { day: '2030-07-16', move: -0.055, volFactor: 1.9 };

export const CLOCK = { lastDay: '2031-03-13', snapshotTime: '15:45', barSessions: 260, chainSessions: 60 };

const results = (day: string): WorldEvent => ({
  day,
  time: '08:30',
  title: 'Luminous Quartz results',
  kind: 'results',
  jump: 0.085,
});

const rateDecision = (day: string): WorldEvent => ({
  day,
  time: '14:00',
  title: 'Rate decision of the Meridian Bank',
  kind: 'rates',
  jump: 0.016,
});

/** The underlyings of the demo that this version makes. */
export const UNDERLYINGS: UnderlyingSpec[] = [
  {
    symbol: 'MRX40',
    name: 'Meridian 40 Index',
    kind: 'index',
    multiplier: 10,
    exercise: 'european',
    family: 'MRX40',
    lastPrice: 4208.15,
    priceTick: 0.05,
    optionTick: [0.05, 0.1],
    islandShare: 1,
    vol: { level: 0.155, reversion: 5, wander: 0.75, leverage: 0.035, premium: 1.12, lastShare: 1.05 },
    skew: { rho: -0.62, eta: 1.05, wander: 0.035 },
    yield: 0.019,
    dividends: [],
    events: ['2030-06-20', '2030-09-19', '2030-12-19', '2031-03-20', '2031-06-19'].map(rateDecision),
    weeklies: 4,
    strikeStep: 25,
    halfSpread: 0.0016,
    activity: 42_000,
  },
  {
    symbol: 'CAIR',
    name: 'Cairn Bank',
    kind: 'equity',
    multiplier: 100,
    exercise: 'american',
    family: 'CAIR',
    lastPrice: 112.4,
    priceTick: 0.01,
    optionTick: [0.01, 0.05],
    islandShare: 0.6,
    vol: { level: 0.26, reversion: 7, wander: 0.8, leverage: 0.02, premium: 1.08, lastShare: 0.72 },
    skew: { rho: -0.38, eta: 0.85, wander: 0.03 },
    yield: 0,
    dividends: ['2030-06-17', '2030-09-16', '2030-12-16', '2031-03-17', '2031-06-16', '2031-09-15', '2031-12-15'].map(
      (exDate) => ({ exDate, amount: 0.85 }),
    ),
    events: [],
    weeklies: 0,
    strikeStep: 2.5,
    halfSpread: 0.004,
    activity: 6_500,
  },
  {
    symbol: 'LMNQ',
    name: 'Luminous Quartz',
    kind: 'equity',
    multiplier: 100,
    exercise: 'american',
    family: 'LMNQ',
    lastPrice: 83.15,
    priceTick: 0.01,
    optionTick: [0.01, 0.05],
    islandShare: 0.45,
    vol: { level: 0.42, reversion: 6, wander: 0.6, leverage: 0.015, premium: 1.06, lastShare: 1.02 },
    skew: { rho: -0.22, eta: 0.8, wander: 0.04 },
    yield: 0,
    dividends: [],
    events: ['2030-06-21', '2030-09-20', '2030-12-20', '2031-03-21', '2031-06-20'].map(results),
    weeklies: 4,
    strikeStep: 2.5,
    halfSpread: 0.005,
    activity: 15_000,
  },
];
