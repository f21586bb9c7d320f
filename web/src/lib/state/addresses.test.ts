import { describe, expect, it } from 'vitest';
import { readContext, writeContext, type Context } from '$lib/address';

/** Addresses of links that people keep, and what of the context each says; all else is as usual. */
const ADDRESSES: readonly [string, Partial<Context>][] = [
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
      ...{ oddsRight: 'spread', oddsLeft: 'record' },
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
      ...{ surface: 'map', quantity: 'vega', form: 'body', mapSide: 'put', isDifference: true },
    },
  ],
  [
    'symbol=MRX40&play=60&speed=15&step=moment&loop=on&panel=arbitrage&view=pairs&pair=3+steps',
    {
      ...{ playSpan: 60, speed: 15, playStep: 'moment', isLooping: true, panel: 'arbitrage' },
      ...{ surface: 'pairs', pairUnit: 'steps', pairSize: 3 },
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
      ...{ history: 'announcements', announced: 'results', span: '1y', since: '2030-06-03' },
    },
  ],
  [
    'symbol=MRX40&left=zones&laws=curve,level,past&law=under&on=return&zones=typed&levels=4000,4300',
    {
      ...{ oddsLeft: 'zones', laws: ['curve', 'level', 'past'], isUnder: true, priceAxis: 'return' },
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

describe('addresses of links that are kept', () => {
  it.each(ADDRESSES)('%s says what it said', (address, said) => {
    const usual = readContext(new URLSearchParams(`symbol=${new URLSearchParams(address).get('symbol')}`));
    const context = readContext(new URLSearchParams(address));
    const others = Object.entries(context).filter(([name]) => !(name in said) && !ALSO.has(name));
    for (const [name, value] of others) expect(value, name).toEqual(usual[name as keyof Context]);
    expect(context).toMatchObject(said);
    expect(readContext(new URLSearchParams(writeContext(context)))).toEqual(context);
  });
});

/** Said by lists of names that stand for others. */
const ALSO = new Set(['symbol', 'expiry', 'strike', 'side', 'columns', 'estimators']);
