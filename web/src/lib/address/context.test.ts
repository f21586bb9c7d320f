import fc from 'fast-check';
import {
  BASES,
  DRIFTS,
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
import { CHAIN_COLUMN_IDS, CHAIN_SETS, USUAL_COLUMNS } from '$lib/columns';
import {
  AXES,
  SKEW_SCALES,
  SKEW_SIDES,
  SURFACE_PANELS,
  SURFACE_VIEWS,
  DRAWERS,
  LAWS,
  ODDS_LEFT,
  ODDS_RIGHT,
  PRICE_AXES,
  STRIKE_RANGES,
  TAPE_LEGS,
  TAPE_SIDES,
  UNITS,
  ZONE_PRESETS,
  DEFAULT_CONTEXT,
  HISTORY_VIEWS,
  IMPLIED_NAMES,
  LOOKBACKS,
  PAST_LAWS,
  PEER_SESSIONS,
  LOWERS,
  SPANS,
  WALLS,
  EXPIRY_CLASSES,
  MAP_FORMS,
  PLAY_SPANS,
  PLAY_SPEEDS,
  PLAY_STEPS,
  QUOTES,
  readContext,
  WINDOWS,
  TERM_LAYERS,
  writeContext,
  type Context,
} from './context';

const day = fc.integer({ min: 0, max: 4000 }).map((n) => new Date(Date.UTC(2030, 0, 1 + n)).toISOString().slice(0, 10));
const moment = day.map((text) => `${text}T16:45:00.000Z`);
const expiryNames = fc.tuple(day, fc.constantFrom('', 'am')).map((parts) => parts.join(''));
const anything: fc.Arbitrary<Context> = fc.record({
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
  legs: fc.array(
    fc.record({
      symbol: fc.constant(''),
      expiry: day,
      settlement: fc.constantFrom(null, 'am' as const),
      strike: fc.integer({ min: 1, max: 10_000 }).map((n) => n / 4),
      side: fc.constantFrom('call' as const, 'put' as const),
      quantity: fc.integer({ min: -99, max: 99 }).filter((n) => n !== 0),
    }),
    { maxLength: 4 },
  ),
  oddsLeft: fc.constantFrom(...ODDS_LEFT),
  oddsRight: fc.constantFrom(...ODDS_RIGHT),
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
  surface: fc.constantFrom(...SURFACE_VIEWS),
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
  history: fc.constantFrom(...HISTORY_VIEWS),
  implied: fc.shuffledSubarray([...IMPLIED_NAMES], { minLength: 1 }),
  estimators: fc.shuffledSubarray([...ESTIMATORS], { minLength: 1 }),
  window: fc.constantFrom(...WINDOWS),
  lower: fc.constantFrom(...LOWERS),
  lookback: fc.constantFrom(...LOOKBACKS),
  span: fc.constantFrom(...SPANS),
  since: fc.constantFrom(null, '2030-06-03'),
  announced: fc.constantFrom('', 'results'),
  changes: fc.constantFrom('', 'vol=25', 'vol=25;days=30', 'dividends=40: 1.2, 131: 1.2;quantity=-3'),
});

/** Legs are of the underlying, and nothing is said of an expiry that is not named. */
const contexts = anything.map((context) => ({
  ...context,
  settlement: context.expiry === null ? null : context.settlement,
  legs: context.legs.flatMap((leg) => (context.symbol === null ? [] : [{ ...leg, symbol: context.symbol }])),
}));

describe('the context in the address', () => {
  it('comes back as it was written', () => {
    fc.assert(
      fc.property(contexts, (context) => {
        expect(readContext(new URLSearchParams(writeContext(context)))).toEqual(context);
      }),
    );
  });
  it('says nothing of what is as usual', () => {
    expect(writeContext(DEFAULT_CONTEXT)).toBe('');
    const usual = { ...DEFAULT_CONTEXT, straddleChoice: 'bracket' as const };
    expect(writeContext({ ...usual, symbol: 'CAIR', asof: '2031-03-13T16:45:00Z' })).toBe(
      '?symbol=CAIR&asof=2031-03-13T16:45:00Z',
    );
  });
  it('an address of before that names no straddle means the bracket, a fresh start the one at the forward', () => {
    expect(readContext(new URLSearchParams('symbol=CAIR')).straddleChoice).toBe('bracket');
    expect(readContext(new URLSearchParams('')).straddleChoice).toBe('forward');
    expect(writeContext({ ...DEFAULT_CONTEXT, symbol: 'CAIR' })).toBe('?symbol=CAIR&straddle=forward');
    expect(writeContext({ ...DEFAULT_CONTEXT, straddleChoice: 'bracket' })).toBe('?straddle=bracket');
  });
  it('falls back where the address says nonsense', () => {
    const query = new URLSearchParams(
      'asof=soon&basis=magic&columns=x,y&open=soon&units=x&times=1.5&range=x&drawer=x&targeting=maybe&target-of=x&target=99&wide=-1&prints=x&against=x&size=x&legs=0c5@2031-04-17,1x5@2031-04-17&left=x&right=x&moves=x&by=x&straddle=x&zones=x&levels=x&laws=x&law=x&on=x&shares=0&manual=shiftx&realized=yz7&past=x&drift=x&quotes=last&expiry=April&strike=high&side=both&axis=q&sides=left&scale=x&upright=1&panel=none&hv=x&iv=x&picture=x&wall=x&axes=x&kinds=x&show=|iv31&families=|&sort=&below=x&lookback=1&span=x&since=June&announced=&window=7&view=x&of=love&as=song&of-side=both&less=more&pair=1.5+steps&classes=yearly&reading=put60&layers=x&speed=7&step=hour&play=3&loop=1&hidden=a,2031-04-17',
    );
    const usual = { ...DEFAULT_CONTEXT, straddleChoice: 'bracket' };
    expect(readContext(query)).toEqual({ ...usual, hidden: ['2031-04-17'], opened: [] });
  });
});
