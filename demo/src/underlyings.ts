import { monthlyExpiry } from '@umwelt/core';
import { CALENDAR, SELL_OFF, yearsFrom, type Follower, type UnderlyingSpec, type WorldEvent } from './world';

type Terms = Pick<UnderlyingSpec, 'symbol' | 'name' | 'lastPrice' | 'vol' | 'skew'> & Partial<UnderlyingSpec>;
type Vol = UnderlyingSpec['vol'];

/** A vol that returns to its level with no other story. */
const vol = (level: number, { wander = 0.7, ...more }: Partial<Vol> = {}): Vol => ({
  level,
  levelAtStart: 1,
  season: 0,
  reversion: 6,
  wander,
  // A correlation of about −0.4 between the moves of price and vol: common practice for single names.
  leverage: 0.0275 * wander,
  // Two points of vol, more or less: what sellers of options are paid on average, common practice.
  premium: 1 + 0.02 / level,
  lastShare: 1,
  ...more,
});

/** A share, with what most shares have. */
const share = (terms: Terms): UnderlyingSpec => ({
  kind: 'equity',
  currency: 'ICR',
  multiplier: 100,
  exercise: 'american',
  family: terms.symbol,
  familyRatio: 1,
  priceTick: 0.01,
  optionTick: [0.01, 0.05],
  factors: { island: 0.5 },
  drift: 0.04,
  turns: [],
  yield: 0,
  dividends: [],
  events: [],
  expiries: { weeklies: 0, monthlyDays: 70, quarterlyDays: 300, dailies: 0 },
  strikes: { step: 2.5, offset: 0, most: 22 },
  halfSpread: 0.005,
  activity: 6000,
  putCall: 0.75,
  fullDays: [],
  ...terms,
});

const fund = (terms: Terms): UnderlyingSpec => share({ kind: 'etf', putCall: 1.3, ...terms });

const results = (company: string, jump: number, days: readonly string[], outcomes: readonly number[] = []) =>
  days.map((day, i): WorldEvent => ({
    day,
    time: '08:30',
    title: `${company} results`,
    kind: 'results',
    jump,
    turnedOut: outcomes[i],
  }));

const rateDecision = (day: string): WorldEvent => ({
  day,
  time: '14:00',
  title: 'Rate decision of the Meridian Bank',
  kind: 'rates',
  jump: 0.016,
});

const paid = (amount: number, days: readonly string[]) => days.map((exDate) => ({ exDate, amount }));
const QUARTERLY = [
  '2030-03-18',
  '2030-06-17',
  '2030-09-16',
  '2030-12-16',
  '2031-03-17',
  '2031-06-16',
  '2031-09-15',
  '2031-12-15',
];
/** A Monday of each month. */
const MONTHLY = Array.from({ length: 24 }, (_, n) => {
  const month = new Date(Date.UTC(2030, 2 + n, 3));
  while (month.getUTCDay() !== 1) month.setUTCDate(month.getUTCDate() + 1);
  return month.toISOString().slice(0, 10);
});

const INDEX: UnderlyingSpec = {
  ...share({
    symbol: 'MRX40',
    name: 'Meridian 40 Index',
    lastPrice: 4208.15,
    vol: vol(0.155, { reversion: 5, wander: 0.95, leverage: 0.065, premium: 1.11, lastShare: 1.05 }),
    skew: { rho: -0.52, eta: 0.72, wander: 0.035 },
  }),
  kind: 'index',
  multiplier: 10,
  exercise: 'european',
  priceTick: 0.05,
  optionTick: [0.05, 0.1],
  factors: { island: 1 },
  yield: 0.019,
  events: ['2030-06-20', '2030-09-19', '2030-12-19', '2031-03-20', '2031-06-19'].map(rateDecision),
  expiries: { weeklies: 4, monthlyDays: 70, quarterlyDays: 300, dailies: 0 },
  settledTwice: '2031-12-18',
  strikes: { step: 25, offset: 0, most: 45 },
  halfSpread: 0.0016,
  activity: 42_000,
  putCall: 1.55,
  fullDays: [SELL_OFF.day],
};

/** Rate of the crown and of the lunmark, about; the curves of the files move around them. */
const CROWN = 0.042;
const LUNMARK = 0.024;

const CURRENCY: UnderlyingSpec = {
  ...share({
    symbol: 'ICRLUN',
    name: 'Isle crown in lunmarks',
    lastPrice: 0.8421,
    vol: vol(0.088, { reversion: 4, wander: 0.6, leverage: 0 }),
    // A full turn in the year: the skew changes its sign twice.
    skew: { rho: 0, eta: 1.1, wander: 0.02, swing: { size: 0.42, turns: 1.25 } },
  }),
  kind: 'fx',
  currency: 'LUN',
  multiplier: 50_000,
  exercise: 'european',
  family: 'ICRLUN',
  priceTick: 0.0001,
  optionTick: [0.0001, 0.0001],
  factors: { island: 0.25 },
  drift: 0,
  yield: CROWN,
  expiries: { weeklies: 1, monthlyDays: 100, quarterlyDays: 300, dailies: 0 },
  strikes: { step: 0.01, offset: 0, most: 20 },
  halfSpread: 0.0025,
  activity: 5000,
  putCall: 1,
};

const TIDL = share({
  symbol: 'TIDL',
  name: 'Tidal Looms',
  lastPrice: 47.3,
  // The year's vol falls, and ends at its lowest.
  vol: vol(0.17, { levelAtStart: 1.5, wander: 0.35, lastShare: 0.76 }),
  skew: { rho: -0.35, eta: 0.8, wander: 0.03 },
  dividends: paid(0.28, QUARTERLY),
  strikes: { step: 1, offset: 0, most: 20 },
  activity: 2500,
});

const SHARES: UnderlyingSpec[] = [
  share({
    symbol: 'CAIR',
    name: 'Cairn Bank',
    lastPrice: 112.4,
    vol: vol(0.26, { reversion: 7, wander: 0.8, lastShare: 0.72 }),
    skew: { rho: -0.38, eta: 0.85, wander: 0.03 },
    factors: { island: 0.6 },
    dividends: paid(0.85, QUARTERLY),
    halfSpread: 0.004,
    activity: 6500,
  }),
  share({
    symbol: 'LMNQ',
    name: 'Luminous Quartz',
    lastPrice: 83.15,
    vol: vol(0.42, { wander: 0.6, premium: 1.03, lastShare: 1.02 }),
    skew: { rho: -0.22, eta: 0.8, wander: 0.04 },
    factors: { island: 0.45 },
    events: results('Luminous Quartz', 0.085, ['2030-06-21', '2030-09-20', '2030-12-20', '2031-03-21', '2031-06-20']),
    expiries: { weeklies: 4, monthlyDays: 70, quarterlyDays: 300, dailies: 0 },
    activity: 15_000,
    fullDays: ['2030-12-20'],
  }),
  TIDL,
  share({
    symbol: 'KELQ',
    name: 'Kelpworks Foods',
    lastPrice: 61.8,
    vol: vol(0.24),
    skew: { rho: -0.3, eta: 0.8, wander: 0.03 },
    dividends: paid(1.35, QUARTERLY),
    strikes: { step: 1, offset: 0, most: 24 },
    activity: 3500,
  }),
  share({
    symbol: 'AURG',
    name: 'Auroral Grid',
    lastPrice: 96.2,
    // What a sold plant brought is paid out: strikes of before lie off the list of after.
    adjustment: { exDate: '2030-10-14', kind: 'special', amount: 3.2 },
    // Implied far over what the price really does.
    vol: vol(0.22, { premium: 1.55, wander: 0.5 }),
    skew: { rho: -0.35, eta: 0.85, wander: 0.03 },
    activity: 7000,
  }),
  share({
    symbol: 'ZEPR',
    name: 'Zephyr Rotors',
    lastPrice: 54.7,
    // The price moves more than is paid for.
    vol: vol(0.4, { premium: 0.74, wander: 0.5, lastShare: 1.1 }),
    skew: { rho: -0.3, eta: 0.8, wander: 0.03 },
    activity: 5500,
  }),
  share({
    symbol: 'FOGH',
    name: 'Foghorn Media',
    lastPrice: 38.4,
    vol: vol(0.52, { leverage: -0.03, lastShare: 1.1 }),
    skew: { rho: -0.12, eta: 0.75, wander: 0.015 },
    factors: { island: 0.2 },
    // The crowd comes in three waves.
    turns: [
      { day: '2031-02-18', move: 0.28, volFactor: 1.5, rho: 0.2 },
      { day: '2031-02-27', move: 0.36, volFactor: 1.35, rho: 0.42 },
      { day: '2031-03-07', move: -0.12, volFactor: 1.05 },
    ],
    expiries: { weeklies: 4, monthlyDays: 70, quarterlyDays: 300, dailies: 0 },
    strikes: { step: 0.5, offset: 0, most: 34 },
    halfSpread: 0.012,
    activity: 28_000,
    putCall: 0.4,
  }),
  share({
    symbol: 'PELG',
    name: 'Pelagic Therapeutics',
    lastPrice: 29.6,
    vol: vol(0.42),
    skew: { rho: -0.1, eta: 0.5, wander: 0.02 },
    factors: { island: 0.2 },
    events: [
      {
        day: '2031-04-24',
        time: '07:00',
        title: 'Result of the Pelagic trial',
        kind: 'trial',
        jump: 0,
        humps: { up: 0.42, down: 0.38 },
      },
    ],
    strikes: { step: 1, offset: 0, most: 30 },
    halfSpread: 0.012,
    activity: 6000,
  }),
  share({
    symbol: 'NACR',
    name: 'Nacre Optics',
    lastPrice: 61.1,
    vol: vol(0.36, { wander: 0.4, lastShare: 1.15 }),
    skew: { rho: -0.3, eta: 0.8, wander: 0.02 },
    // The bid of 62 in cash: the price jumps to just under it and stays there.
    turns: [{ day: '2031-01-21', move: 0.31, volFactor: 0.14, rho: -0.6 }],
    strikes: { step: 1, offset: 0, most: 18 },
    halfSpread: 0.004,
    activity: 5000,
  }),
  share({
    symbol: 'OSPR',
    name: 'Osprey Air',
    lastPrice: 24.9,
    vol: vol(0.38),
    skew: { rho: -0.35, eta: 0.8, wander: 0.03 },
    factors: { island: 0.45, water: -0.62 },
    // More than was expected, two weeks in a row.
    turns: [
      { day: '2031-02-28', move: -0.115 },
      { day: '2031-03-10', move: -0.03 },
    ],
    expiries: { weeklies: 4, monthlyDays: 70, quarterlyDays: 300, dailies: 0 },
    strikes: { step: 0.5, offset: 0, most: 22 },
    activity: 6500,
  }),
  share({
    symbol: 'DRFT',
    name: 'Driftline Games',
    lastPrice: 27.85,
    // One for eight, less a payment: strikes and the multiplier are what is left of the old ones.
    multiplier: 10,
    vol: vol(0.6),
    skew: { rho: -0.25, eta: 0.75, wander: 0.03 },
    strikes: { step: 2, offset: 0.35, most: 16 },
    halfSpread: 0.02,
    haltedDay: '2030-08-21',
    activity: 900,
  }),
  share({
    symbol: 'HRBR',
    name: 'Harbour Ropeways',
    lastPrice: 38.4,
    vol: vol(0.29, { wander: 0.4 }),
    skew: { rho: -0.35, eta: 0.8, wander: 0.02 },
    // Bought for cash: the price stays at the bid, until it is listed no longer.
    turns: [{ day: '2030-09-02', move: 0.24, volFactor: 0.2, rho: -0.6 }],
    expires: '2030-11-01',
    strikes: { step: 1, offset: 0, most: 18 },
    activity: 1500,
  }),
  share({
    symbol: 'GYRB',
    name: 'Gyre Robotics',
    lastPrice: 214.6,
    drift: 0.62,
    vol: vol(0.33, { levelAtStart: 1.75, wander: 0.35, lastShare: 1.12 }),
    skew: { rho: -0.3, eta: 0.8, wander: 0.03 },
    strikes: { step: 5, offset: 0, most: 26 },
    missingDay: '2030-11-12',
    // Two for one, since it has become dear.
    adjustment: { exDate: '2030-09-09', kind: 'split', amount: 2 },
    activity: 12_000,
  }),
  share({
    symbol: 'QUAY',
    name: 'Quayside Stores',
    lastPrice: 18.35,
    vol: vol(0.34),
    skew: { rho: -0.3, eta: 0.8, wander: 0.03 },
    strikes: { step: 2.5, offset: 0, most: 12 },
    halfSpread: 0.075,
    brokenExpiry: '2031-06-19',
    activity: 150,
  }),
  share({
    symbol: 'REFS',
    name: 'Reef Semis',
    lastPrice: 142.75,
    factors: { island: 0.65 },
    vol: vol(0.55, { wander: 0.8, lastShare: 1.05 }),
    skew: { rho: -0.3, eta: 0.8, wander: 0.03 },
    events: results('Reef Semis', 0.07, ['2030-05-16', '2030-08-15', '2030-11-14', '2031-02-13', '2031-05-15']),
    // One every session, the day's own included.
    expiries: { weeklies: 4, monthlyDays: 70, quarterlyDays: 300, dailies: 2 },
    strikes: { step: 2.5, offset: 0, most: 24 },
    halfSpread: 0.004,
    activity: 68_000,
  }),
  share({
    symbol: 'SLTH',
    name: 'Slate Harbour Trust',
    lastPrice: 33.15,
    vol: vol(0.2, { wander: 0.4 }),
    skew: { rho: -0.02, eta: 0.5, wander: 0.01 },
    dividends: paid(0.16, MONTHLY),
    strikes: { step: 1, offset: 0, most: 16 },
    activity: 1500,
  }),
];

const FUNDS: UnderlyingSpec[] = [
  fund({
    symbol: 'ISLX',
    name: 'Isles Smaller Companies',
    lastPrice: 78.4,
    factors: { island: 0.85 },
    vol: vol(0.21, { wander: 0.8, leverage: 0.04, premium: 1.16 }),
    skew: { rho: -0.66, eta: 0.7, wander: 0.02 },
    strikes: { step: 1, offset: 0, most: 30 },
    halfSpread: 0.004,
    activity: 9000,
  }),
  fund({
    symbol: 'SPAR',
    name: 'Shipping Fund',
    lastPrice: 41.9,
    vol: vol(0.19, { premium: 1.7, wander: 0.4 }),
    skew: { rho: -0.4, eta: 0.8, wander: 0.03 },
    expiries: { weeklies: 0, monthlyDays: 40, quarterlyDays: 130, dailies: 0 },
    strikes: { step: 1, offset: 0, most: 18 },
    halfSpread: 0.008,
    activity: 1800,
  }),
  fund({
    symbol: 'LEEW',
    name: 'Leeward Bonds',
    lastPrice: 101.25,
    factors: { island: -0.15 },
    vol: vol(0.056, { wander: 0.4, leverage: 0, premium: 1.12 }),
    skew: { rho: -0.2, eta: 0.7, wander: 0.02 },
    dividends: paid(0.3, MONTHLY),
    strikes: { step: 0.5, offset: 0, most: 22 },
    halfSpread: 0.0015,
    activity: 4000,
  }),
];

/** Products that are traded for delivery; the spot itself is not quoted. */
const WATER: UnderlyingSpec = share({
  symbol: 'AQF',
  name: 'Fresh-water',
  lastPrice: 3.182,
  priceTick: 1e-9,
  factors: { island: 0.1, water: 0.9 },
  drift: 0.1,
  vol: vol(0.36, { leverage: -0.02, wander: 0.6 }),
  skew: { rho: 0.3, eta: 0.85, wander: 0.03 },
});
const WIND: UnderlyingSpec = share({
  symbol: 'WNH',
  name: 'Wind-hour',
  lastPrice: 7.45,
  priceTick: 1e-9,
  factors: { island: 0.05 },
  drift: 0,
  vol: vol(0.48, { season: 0.35, leverage: 0, wander: 0.5 }),
  skew: { rho: 0.05, eta: 0.8, wander: 0.03 },
});

/** Letters of delivery months as every exchange writes them, January first. */
const MONTH_LETTERS = 'FGHJKMNQUVXZ';

/** The six deliveries of a product as underlyings of their own. */
function deliveries(
  product: UnderlyingSpec,
  months: readonly (readonly [year: number, month: number])[],
  terms: Partial<UnderlyingSpec>,
  /** Log of price over spot a year ahead. */
  slope: number,
  /** By how much vol falls with the time to delivery, and how its moves become others than those of the spot, per year. */
  { damping, apart }: { damping: number; apart: number },
): Follower[] {
  return months.map(([year, month]) => {
    const expires = monthlyExpiry(CALENDAR, `${year}-${String(month).padStart(2, '0')}`);
    const code = `${MONTH_LETTERS[month - 1]}${year % 100}`;
    const title = new Date(Date.UTC(year, month - 1)).toLocaleDateString('en', { month: 'long', timeZone: 'UTC' });
    return {
      of: product.symbol,
      sign: 1,
      price: (price, day) => price * Math.exp(slope * Math.max(0, yearsFrom(day, expires))),
      volFactor: (day) => Math.exp(-damping * Math.max(0, yearsFrom(day, expires))),
      ...(apart > 0 ? { alike: (day: string) => Math.exp(-apart * Math.max(0, yearsFrom(day, expires))) } : {}),
      spec: {
        ...product,
        kind: 'future',
        name: `${product.name} ${title} ${year}`,
        dividends: [],
        events: product.events,
        expiries: { weeklies: 0, monthlyDays: 70, quarterlyDays: 0, dailies: 0 },
        putCall: 1,
        fullDays: [],
        ...terms,
        symbol: `${terms.root}${code}`,
        expires,
      },
    };
  });
}

const WATER_MONTHS = [4, 5, 6, 7, 8, 9].map((month) => [2031, month] as const);
const INDEX_MONTHS = [
  [2031, 3],
  [2031, 6],
  [2031, 9],
  [2031, 12],
  [2032, 3],
  [2032, 6],
] as const;

/** Underlyings with a path of their own. AQF and WNH are the spots behind the futures, and not quoted. */
export const ROOTS: UnderlyingSpec[] = [INDEX, CURRENCY, ...SHARES, ...FUNDS, WATER, WIND];
const UNQUOTED = [WATER.symbol, WIND.symbol];

/** Underlyings whose path is another's. */
export const FOLLOWERS: Follower[] = [
  {
    of: INDEX.symbol,
    sign: 1,
    price: (price) => price / 10,
    volFactor: () => 1,
    spec: {
      ...INDEX,
      symbol: 'MERI',
      name: 'Meridian 40 Fund',
      kind: 'etf',
      exercise: 'american',
      multiplier: 100,
      family: INDEX.symbol,
      familyRatio: 0.1,
      lastPrice: 420.82,
      priceTick: 0.01,
      optionTick: [0.01, 0.05],
      strikes: { step: 5, offset: 0, most: 26 },
      expiries: { weeklies: 2, monthlyDays: 70, quarterlyDays: 200, dailies: 0 },
      halfSpread: 0.008,
      activity: 7000,
    },
  },
  ...deliveries(
    INDEX,
    INDEX_MONTHS,
    {
      root: 'MXF',
      multiplier: 50,
      exercise: 'american',
      family: INDEX.symbol,
      familyRatio: 1,
      strikes: { step: 50, offset: 0, most: 22 },
      halfSpread: 0.0025,
      activity: 3000,
    },
    CROWN - INDEX.yield,
    { damping: 0, apart: 0 },
  ),
  ...deliveries(
    WATER,
    WATER_MONTHS,
    {
      root: 'AQF',
      multiplier: 1000,
      exercise: 'american',
      family: 'AQF',
      priceTick: 0.001,
      optionTick: [0.001, 0.001],
      strikes: { step: 0.05, offset: 0, most: 26 },
      halfSpread: 0.006,
      activity: 2200,
    },
    -0.2,
    { damping: 0.6, apart: 0.6 },
  ),
  ...deliveries(
    WIND,
    WATER_MONTHS,
    {
      root: 'WNH',
      multiplier: 500,
      exercise: 'american',
      family: 'WNH',
      priceTick: 0.005,
      optionTick: [0.005, 0.005],
      strikes: { step: 0.125, offset: 0, most: 30 },
      halfSpread: 0.008,
      activity: 1600,
    },
    0.16,
    { damping: 0.4, apart: 0.6 },
  ),
  {
    of: CURRENCY.symbol,
    sign: -1,
    price: (price) => 1 / price,
    volFactor: () => 1,
    spec: {
      ...CURRENCY,
      symbol: 'LUNICR',
      name: 'Lunmark in isle crowns',
      currency: 'ICR',
      lastPrice: 1 / 0.8421,
      yield: LUNMARK,
      strikes: { step: 0.0125, offset: 0, most: 20 },
    },
  },
];

/** Every underlying that is quoted, in the order in which their chains are written. */
export const UNDERLYINGS: UnderlyingSpec[] = [
  ...ROOTS.filter(({ symbol }) => !UNQUOTED.includes(symbol)),
  ...FOLLOWERS.map(({ spec }) => spec),
];
