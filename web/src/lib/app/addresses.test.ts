import fc from 'fast-check';
import {
  BASES,
  DRIFTS,
  DYNAMICS,
  VOL_SCALES,
  ESTIMATORS,
  GRID_QUANTITIES,
  MOVE_MEASURES,
  ODDS_KINDS,
  PAIR_UNITS,
  STEP_KINDS,
  STRADDLE_CHOICES,
  UNDERLYING_KINDS,
} from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import {
  Codec,
  CONTEXT,
  PAST_LAWS,
  PLAY_SPANS,
  PLAY_SPEEDS,
  PLAY_STEPS,
  QUOTES,
  WINDOWS,
  type Context,
  type Params,
} from '$lib/address';
import { CHAIN_COLUMN_IDS, CHAIN_SETS, USUAL_COLUMNS } from '$lib/columns';
import { TAPE_LEGS, TAPE_SIDES } from '$lib/data/tape';
import { UNITS, STRIKE_RANGES, DRAWERS, type ChainParams } from '$lib/views/chain/params';
import { ENTRIES, HEDGE_VOLS, HEDGED_PARAMS, REHEDGES, STRETCHES, WORTHS, type HedgedParams } from '$lib/hedged/params';
import {
  BELOWS,
  CHOICES,
  COUNTS,
  GREEKS,
  LEFTS,
  SOURCES,
  type Amounts,
  type HedgeParams,
  type Target,
} from '$lib/views/hedge/params';
import { HISTORY_VIEWS, IMPLIED_NAMES, LOWERS, LOOKBACKS, SPANS, type HistoryParams } from '$lib/views/history/params';
import { LEFT_PANELS, RIGHT_PANELS, ZONE_PRESETS, LAWS, PRICE_AXES, type OddsParams } from '$lib/views/odds/params';
import {
  FILLS,
  PICTURES,
  QUANTITIES,
  UNDERS,
  UNITS as AMOUNTS,
  type StructureParams,
} from '$lib/views/structure/params';
import type { PricerParams } from '$lib/views/pricer/params';
import { WALLS, PEER_SESSIONS, type UniverseParams } from '$lib/views/universe/params';
import {
  AXES,
  SKEW_SIDES,
  SKEW_SCALES,
  EXPIRY_CLASSES,
  TERM_LAYERS,
  SURFACE_VIEWS,
  MAP_FORMS,
  SURFACE_PANELS,
  type SurfaceParams,
} from '$lib/views/surface/params';

/** All that stands in the address, side by side: no two views have a key in common. */
type State = Context &
  ChainParams &
  SurfaceParams &
  UniverseParams &
  HistoryParams &
  HedgeParams &
  HedgedParams &
  OddsParams &
  PricerParams &
  StructureParams;

const views = import.meta.glob<{ PARAMS: Params<object> }>('../views/*/params.ts', { eager: true });
const groups = [
  ...[CONTEXT, HEDGED_PARAMS].map((one) => one as Params<object>),
  ...Object.values(views).map(({ PARAMS }) => PARAMS),
];
const codec = new Codec(groups);
const read = (query: string) => Object.assign({}, ...codec.read(new URLSearchParams(query)).values()) as State;
const write = (state: State) => codec.write(() => state);
/** What stands when nothing has been chosen yet. */
const START = read('');
/** What an address means that says hardly anything. */
const USUAL = { ...read('asof='), symbol: null };

const day = fc.integer({ min: 0, max: 4000 }).map((n) => new Date(Date.UTC(2030, 0, 1 + n)).toISOString().slice(0, 10));
const moment = day.map((text) => `${text}T16:45:00.000Z`);
const expiryNames = fc.tuple(day, fc.constantFrom('', 'am')).map((parts) => parts.join(''));
const hedgeAmounts = fc.constantFrom<Amounts>({}, { gamma: -2.5, vega: 900 }, { skew: 3, 'vega@2031-04-17': -9 });

const namedLegs = (maxLength: number) =>
  fc.array(
    fc.record({
      // That of the underlying, or another delivery.
      symbol: fc.constantFrom('', '', 'AQFU31'),
      expiry: day,
      settlement: fc.constantFrom(null, 'am' as const),
      strike: fc.integer({ min: 1, max: 10_000 }).map((n) => n / 4),
      side: fc.constantFrom('call' as const, 'put' as const),
      quantity: fc.integer({ min: -99, max: 99 }).filter((n) => n !== 0),
    }),
    { maxLength },
  );
const anything: fc.Arbitrary<State> = fc.record({
  symbol: fc.option(fc.stringMatching(/^[A-Z0-9./]{1,8}$/)),
  asof: fc.option(moment),
  ghost: fc.option(moment),
  basis: fc.constantFrom(...BASES),
  manual: fc.oneof(
    fc.record({ kind: fc.constant('vol' as const), value: fc.integer({ min: 1, max: 3000 }).map((n) => n / 1000) }),
    fc.record({ kind: fc.constant('shift' as const), value: fc.integer({ min: -500, max: 500 }).map((n) => n / 1000) }),
  ),
  realizedBy: fc.constantFrom(...ESTIMATORS),
  realizedWindow: fc.constantFrom(...WINDOWS),
  pastLaw: fc.constantFrom(...PAST_LAWS),
  drift: fc.constantFrom(...DRIFTS),
  quotes: fc.constantFrom(...QUOTES),
  expiry: fc.option(day),
  settlement: fc.constantFrom(null, 'am' as const),
  strike: fc.option(fc.double({ min: 0.001, max: 1e6, noNaN: true })),
  side: fc.option(fc.constantFrom('call' as const, 'put' as const)),
  columns: fc.oneof(
    fc.constantFrom(...Object.values(CHAIN_SETS)),
    fc.shuffledSubarray(CHAIN_COLUMN_IDS, { minLength: 1, maxLength: 9 }),
  ),
  opened: fc.option(fc.uniqueArray(expiryNames, { maxLength: 3 })),
  units: fc.constantFrom(...UNITS),
  times: fc.integer({ min: -500, max: 500 }),
  strikeRange: fc.constantFrom(...STRIKE_RANGES),
  rangeSize: fc.integer({ min: 1, max: 100 }),
  drawer: fc.constantFrom(...DRAWERS),
  hasTape: fc.boolean(),
  isTargeting: fc.boolean(),
  targetKind: fc.constantFrom(...ODDS_KINDS),
  target: fc.integer({ min: 1, max: 120 }).map((n) => n / 2),
  targetWidth: fc.constantFrom(0, 2.5, 100),
  tapeLegs: fc.constantFrom(...TAPE_LEGS),
  tapeSides: fc.constantFrom(...TAPE_SIDES),
  tapeSize: fc.integer({ min: 0, max: 1000 }),
  legs: namedLegs(12),
  left: fc.constantFrom(...LEFT_PANELS),
  right: fc.constantFrom(...RIGHT_PANELS),
  stepKind: fc.constantFrom(...STEP_KINDS),
  moveMeasure: fc.constantFrom(...MOVE_MEASURES),
  straddleChoice: fc.constantFrom(...STRADDLE_CHOICES),
  preset: fc.constantFrom(...ZONE_PRESETS),
  levels: fc.uniqueArray(fc.integer({ min: 0, max: 9999 }), { maxLength: 8 }),
  laws: fc.subarray([...LAWS], { minLength: 1 }),
  isUnder: fc.boolean(),
  priceAxis: fc.constantFrom(...PRICE_AXES),
  shares: fc.uniqueArray(fc.integer({ min: 1, max: 900 }), { minLength: 1, maxLength: 5 }),
  axis: fc.constantFrom(...AXES),
  sides: fc.constantFrom(...SKEW_SIDES),
  scale: fc.constantFrom(...SKEW_SCALES),
  isLog: fc.boolean(),
  hasMisses: fc.boolean(),
  beside: fc.uniqueArray(fc.stringMatching(/^[A-Z0-9.]{1,8}$/), { maxLength: 4 }),
  main: fc.constantFrom(...SURFACE_VIEWS),
  quantity: fc.constantFrom(...GRID_QUANTITIES),
  form: fc.constantFrom(...MAP_FORMS),
  mapSide: fc.constantFrom('call' as const, 'put' as const),
  isDifference: fc.boolean(),
  pairUnit: fc.constantFrom(...PAIR_UNITS),
  pairSize: fc.integer({ min: 1, max: 10 }),
  panel: fc.constantFrom(...SURFACE_PANELS),
  hasBand: fc.boolean(),
  classes: fc.subarray([...EXPIRY_CLASSES], { minLength: 1 }),
  reading: fc.constantFrom('atm' as const, 'put25' as const, 'call7' as const),
  layers: fc.subarray([...TERM_LAYERS]),
  speed: fc.constantFrom(...PLAY_SPEEDS),
  playStep: fc.constantFrom(...PLAY_STEPS),
  playSpan: fc.constantFrom(...PLAY_SPANS),
  isLooping: fc.boolean(),
  hidden: fc.uniqueArray(expiryNames, { maxLength: 4 }),
  show: fc.constantFrom(
    [...USUAL_COLUMNS],
    ['iv30 / hv20.yz - 1', ...USUAL_COLUMNS],
    ['rank(iv30, 120)', 'rr25 - avg(rr25, 60)', '~iv30', 'flags'],
  ),
  keep: fc.constantFrom([], ['iv30 > 20% and rr25 < 0']),
  kinds: fc.subarray([...UNDERLYING_KINDS]),
  families: fc.constantFrom([], ['MRX40', 'AQF']),
  sort: fc.constantFrom('iv30 / hv20.yz', 'price|rising'),
  wall: fc.constantFrom(...WALLS),
  hasVolume: fc.boolean(),
  peerSessions: fc.constantFrom(...PEER_SESSIONS),
  isApart: fc.boolean(),
  isSameKind: fc.boolean(),
  isShared: fc.boolean(),
  picture: fc.constantFrom(...HISTORY_VIEWS),
  implied: fc.shuffledSubarray([...IMPLIED_NAMES], { minLength: 1 }),
  estimators: fc.shuffledSubarray([...ESTIMATORS], { minLength: 1 }),
  window: fc.constantFrom(...WINDOWS),
  lower: fc.constantFrom(...LOWERS),
  lookback: fc.constantFrom(...LOOKBACKS),
  span: fc.constantFrom(...SPANS),
  since: fc.constantFrom(null, '2030-06-03'),
  announced: fc.constantFrom('', 'results'),
  drawn: fc.constantFrom(...QUANTITIES),
  fill: fc.constantFrom(...FILLS),
  fee: fc.integer({ min: 0, max: 900 }).map((n) => n / 100),
  unit: fc.constantFrom(...AMOUNTS),
  days: fc.integer({ min: 0, max: 900 }),
  volPoints: fc.integer({ min: -150, max: 150 }).map((n) => n / 10),
  skewPoints: fc.integer({ min: -60, max: 60 }).map((n) => n / 10),
  volScale: fc.constantFrom(...VOL_SCALES),
  volShifts: fc.constantFrom<StructureParams['volShifts']>({}, { '2031-04-17': 1.5, '2031-05-15am': -2 }),
  movePercent: fc.integer({ min: -180, max: 600 }).map((n) => n / 2),
  ratePoints: fc.integer({ min: -40, max: 40 }).map((n) => n / 4),
  axisFrom: fc.integer({ min: 0, max: 9000 }).map((n) => n / 4),
  axisTo: fc.integer({ min: 0, max: 9000 }).map((n) => n / 4),
  dates: fc.uniqueArray(fc.integer({ min: 1, max: 900 }), { maxLength: 2 }),
  hasAllStrips: fc.boolean(),
  dynamics: fc.constantFrom(...DYNAMICS),
  source: fc.constantFrom(...SOURCES),
  typed: hedgeAmounts,
  wanted: fc.subarray<Target>([...GREEKS, 'skew', 'vega@2031-04-17'], { minLength: 1 }),
  aims: hedgeAmounts,
  bands: hedgeAmounts,
  count: fc.constantFrom(...COUNTS),
  choice: fc.constantFrom(...CHOICES),
  added: namedLegs(3),
  excluded: namedLegs(3),
  ahead: fc.integer({ min: 0, max: 60 }),
  below: fc.constantFrom(...BELOWS),
  leftOver: fc.constantFrom(...LEFTS),
  keptId: fc.constantFrom(0, 7),
  against: namedLegs(2),
  againstHeld: fc.constantFrom(0, -51),
  stretch: fc.constantFrom(...STRETCHES),
  rehedge: fc.constantFrom(...REHEDGES),
  hedgeBand: fc.constantFrom(0, 2.5, 10),
  hedgeVol: fc.constantFrom(...HEDGE_VOLS),
  fixedVol: fc.constantFrom(1, 17.5, 20),
  worth: fc.constantFrom(...WORTHS),
  hedgeCost: fc.constantFrom(0, 0.5, 5),
  entered: fc.constantFrom(...ENTRIES),
  hasEvents: fc.boolean(),
  pictured: fc.constantFrom(...PICTURES),
  under: fc.constantFrom(...UNDERS),
  held: fc.integer({ min: -9999, max: 9999 }),
  before: namedLegs(4),
  tied: fc.integer({ min: 0, max: 9000 }).map((n) => n / 4),
  changes: fc.constantFrom('', 'vol=25', 'vol=25;days=30', 'dividends=40: 1.2, 131: 1.2;quantity=-3'),
});

const ofSymbol = (legs: State['legs'], symbol: string | null) =>
  legs.flatMap((leg) => (symbol === null ? [] : [{ ...leg, symbol: leg.symbol || symbol }]));

/** Legs are of the underlying unless they name another delivery, and nothing is said of an expiry that is not named. */
const states = anything.map((state) => ({
  // Views that came later are as usual.
  ...{ ...USUAL, ...state },
  settlement: state.expiry === null ? null : state.settlement,
  ...{ legs: ofSymbol(state.legs, state.symbol), before: ofSymbol(state.before, state.symbol) },
  ...{ added: ofSymbol(state.added, state.symbol), excluded: ofSymbol(state.excluded, state.symbol) },
  against: ofSymbol(state.against, state.symbol),
}));

describe('the address of all views', () => {
  it('comes back as it was written', () => {
    fc.assert(
      fc.property(states, (state) => {
        expect(read(write(state))).toEqual(state);
      }),
    );
  });
  it('says nothing of what is as usual', () => {
    expect(write(START)).toBe('');
    expect(write({ ...USUAL, symbol: 'CAIR', asof: '2031-03-13T16:45:00Z' })).toBe(
      '?symbol=CAIR&asof=2031-03-13T16:45:00Z',
    );
  });
  it('an address of before that names neither straddle nor axes means those of its time, a fresh start others', () => {
    expect(read('symbol=CAIR')).toMatchObject({ straddleChoice: 'bracket', isShared: true });
    expect(START).toMatchObject({ straddleChoice: 'forward', isShared: false });
    expect(write({ ...START, symbol: 'CAIR' })).toBe('?symbol=CAIR&straddle=forward&axes=own');
    for (const isShared of [true, false]) {
      const state = { ...START, straddleChoice: 'bracket' as const, isShared };
      expect(read(write(state))).toEqual(state);
    }
  });
  it('falls back where the address says nonsense', () => {
    const query =
      'asof=soon&basis=magic&columns=x,y&open=soon&units=x&times=1.5&range=x&drawer=x&targeting=maybe&target-of=x&target=99&wide=-1&prints=x&against=x&size=x&legs=0c5@2031-04-17,1x5@2031-04-17&left=x&right=x&moves=x&by=x&straddle=x&zones=x&levels=x&laws=x&law=x&on=x&shares=0&manual=shiftx&realized=yz7&past=x&drift=x&quotes=last&expiry=April&strike=high&side=both&axis=q&sides=left&scale=x&upright=1&panel=none&hv=x&iv=x&picture=x&wall=x&axes=x&kinds=x&show=|iv31&families=|&sort=&below=x&hedgebelow=x&hedgeleft=x&exposedid=-1&hedgeagainst=1x5@2031-04-17&hedgeagainstheld=x&stretch=x&rehedge=x&hedgeband=-1&hedgevol=x&hedgefixed=0&hedgeworth=x&hedgecost=x&hedgeentry=x&lookback=1&span=x&since=June&announced=&window=7&view=x&of=love&as=song&of-side=both&less=more&pair=1.5+steps&classes=yearly&reading=put60&layers=x&speed=7&step=hour&play=3&loop=1&draw=x&fill=x&fee=-1&in=x&days=-1&volshift=99&skewshift=x&dynamics=x&events=x&along=x&under=x&held=much&tied=high&before=x&hidden=a,2031-04-17';
    expect(read(query)).toEqual({ ...USUAL, hidden: ['2031-04-17'], opened: [] });
  });
});

/** Addresses of links that people keep, and what of the context each says; all else is as usual. */
const ADDRESSES: readonly [string, Partial<State>][] = [
  [
    'symbol=CAIR&along=map&under=greeks&draw=vega&fill=worst&fee=1.25&in=unit&days=12&volshift=-2.5&skewshift=1&dynamics=moneyness&events=even&held=-50&tied=99.5&before=1c100@2031-04-17',
    {
      ...{ pictured: 'map', under: 'greeks', held: -50, tied: 99.5 },
      before: [{ symbol: 'CAIR', expiry: '2031-04-17', settlement: null, strike: 100, side: 'call', quantity: 1 }],
      ...{ drawn: 'vega', fill: 'worst', fee: 1.25, unit: 'unit', days: 12, volPoints: -2.5, skewPoints: 1 },
      ...{ dynamics: 'moneyness', hasEvents: false },
    },
  ],
  [
    'symbol=MRX40&asof=2031-01-15T16:45:00.000Z&ghost=2030-12-20T16:45:00.000Z',
    {
      ...{ symbol: 'MRX40', asof: '2031-01-15T16:45:00.000Z', ghost: '2030-12-20T16:45:00.000Z' },
    },
  ],
  [
    'symbol=MRX40&basis=manual&manual=shift2&past=blocks&drift=none',
    {
      ...{ basis: 'manual', manual: { kind: 'shift', value: 0.02 }, pastLaw: 'blocks', drift: 'none' },
    },
  ],
  [
    'symbol=CAIR&basis=realized&realized=pkexpiry&quotes=ask',
    {
      ...{ basis: 'realized', realizedBy: 'parkinson', realizedWindow: 0, quotes: 'ask' },
    },
  ],
  [
    'symbol=MRX40&expiry=2031-04-17&strike=4300&side=call&columns=all&range=6+strikes',
    {
      ...{ expiry: '2031-04-17', settlement: null, strike: 4300, side: 'call', strikeRange: 'strikes', rangeSize: 6 },
    },
  ],
  [
    'symbol=KELQ&columns=bid,ask,vol&open=2031-04-17,2031-06-19&units=position&times=-5',
    {
      ...{ columns: ['bid', 'ask', 'vol'], opened: ['2031-04-17', '2031-06-19'], units: 'position', times: -5 },
    },
  ],
  [
    'symbol=MRX40&drawer=priced&tape=on&prints=several&against=above&size=20',
    {
      ...{ drawer: 'priced', hasTape: true, tapeLegs: 'several', tapeSides: 'above', tapeSize: 20 },
    },
  ],
  [
    'symbol=MRX40&targeting=on&target-of=touch&target=9&wide=100',
    {
      ...{ isTargeting: true, targetKind: 'touch', target: 9, targetWidth: 100 },
    },
  ],
  [
    'symbol=MRX40&right=spread&left=record&legs=-1c4400@2031-04-17,2p3850.5@2031-06-19',
    {
      ...{ right: 'spread', left: 'record' },
      legs: [
        { symbol: 'MRX40', expiry: '2031-04-17', settlement: null, strike: 4400, side: 'call', quantity: -1 },
        { symbol: 'MRX40', expiry: '2031-06-19', settlement: null, strike: 3850.5, side: 'put', quantity: 2 },
      ],
    },
  ],
  [
    'symbol=MRX40&axis=standardized&sides=both&scale=shape&upright=log&misses=shown',
    {
      ...{ axis: 'standardized', sides: 'both', scale: 'shape', isLog: true, hasMisses: true },
    },
  ],
  [
    'symbol=CAIR&beside=LMNQ,MERI&band=shown&hidden=2031-04-17,2031-06-19',
    {
      ...{ beside: ['LMNQ', 'MERI'], hasBand: true, hidden: ['2031-04-17', '2031-06-19'] },
    },
  ],
  [
    'symbol=MRX40&view=map&of=vega&as=body&of-side=put&less=ghost',
    {
      ...{ main: 'map', quantity: 'vega', form: 'body', mapSide: 'put', isDifference: true },
    },
  ],
  [
    'symbol=MRX40&play=60&speed=15&step=moment&loop=on&panel=arbitrage&view=pairs&pair=3+steps',
    {
      ...{ playSpan: 60, speed: 15, playStep: 'moment', isLooping: true, panel: 'arbitrage' },
      ...{ main: 'pairs', pairUnit: 'steps', pairSize: 3 },
    },
  ],
  [
    'symbol=MRX40&classes=monthly,quarterly&reading=put25&layers=steps,band',
    {
      ...{ classes: ['monthly', 'quarterly'], reading: 'put25', layers: ['steps', 'band'] },
    },
  ],
  [
    'symbol=MRX40&show=iv30|rank(iv30, 120)|~iv30&keep=iv30 > 20%25 and rr25 < 0&kinds=equity,etf&families=MRX40',
    {
      ...{ show: ['iv30', 'rank(iv30, 120)', '~iv30'], keep: ['iv30 > 20% and rr25 < 0'] },
      ...{ kinds: ['etf', 'equity'], families: ['MRX40'] },
    },
  ],
  [
    'symbol=MERI&wall=peers&compared=252&apart=true&alike=true&sort=price|rising&axes=own&foot=volume',
    {
      ...{ wall: 'peers', peerSessions: 252, isApart: true, isSameKind: true, sort: 'price|rising' },
      ...{ isShared: false, hasVolume: true },
    },
  ],
  [
    'symbol=LMNQ&iv=iv30,put25&hv=cc,pk&window=expiry&below=ratio&lookback=504',
    {
      ...{ implied: ['iv30', 'put25'], window: 0, lower: 'ratio', lookback: 504 },
    },
  ],
  [
    'symbol=LMNQ&picture=announcements&announced=results&span=1y&since=2030-06-03',
    {
      ...{ picture: 'announcements', announced: 'results', span: '1y', since: '2030-06-03' },
    },
  ],
  [
    'symbol=MRX40&left=zones&laws=curve,level,past&law=under&on=return&zones=typed&levels=4000,4300',
    {
      ...{ left: 'zones', laws: ['curve', 'level', 'past'], isUnder: true, priceAxis: 'return' },
      ...{ preset: 'typed', levels: [4000, 4300] },
    },
  ],
  [
    'symbol=ICRLUN&straddle=forward&moves=expiry&by=deviation&shares=30,15',
    {
      ...{ straddleChoice: 'forward', stepKind: 'expiry', moveMeasure: 'deviation', shares: [30, 15] },
    },
  ],
  ['symbol=MRX40&expiry=2031-04-17&strike=4200&side=put&set=vol=25;days=30', { changes: 'vol=25;days=30' }],
];

/** Said by lists of names that stand for others. */
const ALSO = new Set(['symbol', 'expiry', 'strike', 'side', 'columns', 'estimators']);

describe('addresses of links that are kept', () => {
  it.each(ADDRESSES)('%s says what it said', (address, said) => {
    const usual = read(`symbol=${new URLSearchParams(address).get('symbol')}`);
    const state = read(address);
    const others = Object.entries(state).filter(([name]) => !(name in said) && !ALSO.has(name));
    for (const [name, value] of others) expect(value, name).toEqual(usual[name as keyof State]);
    expect(state).toMatchObject(said);
    expect(read(write(state))).toEqual(state);
  });
});
