import { priceContract, type Side } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { choiceOf } from '$lib/data/pricing';
import { cellValue, chainSide, higherGreeks, type CellSettings, type ChainSide } from '$lib/working/cells';
import {
  CHAIN_COLUMN_IDS,
  CHAIN_COLUMNS,
  CHAIN_SETS,
  putColumns,
  setOfColumns,
  type ChainColumnId,
} from '$lib/columns';
import { readOwnSets } from './column-sets';
import { chainItems, placeInMove, strikesWithin } from './rows';
import { legWords, pickedStructure, withLeg, type PickedStructure } from '$lib/structure';
import { distanceOf, placeWords, type Print } from '$lib/data/tape';
import { tapeTable } from './tape';
import { decayWork, printWork, targetWork } from './work';
import { metOn } from './target';
import { decayRows } from './theta';

const snapshot = makeSnapshot();
const valued = makeValued(snapshot);
const settings: CellSettings = { columns: CHAIN_COLUMN_IDS, quotes: 'mid', decimals: 2, times: 1 };
const given = { snapshot, slice: snapshot.slices[1]!, values: valued.values[1]! };
const side = (name: Side, i: number, own = settings, from = given) => chainSide(from, name, i, own);
const text = ({ texts }: ChainSide, id: ChainColumnId) => texts[CHAIN_COLUMN_IDS.indexOf(id)]!;

describe('columns', () => {
  it('are mirrored for the puts, but bid, mid and ask keep their order', () => {
    expect(putColumns(['volume', 'itm', 'theory', 'bid', 'mid', 'ask'])).toEqual([
      ...['bid', 'mid', 'ask', 'theory', 'itm', 'volume'],
    ]);
  });
  it('are known as the set that has just them', () => {
    expect(setOfColumns([...CHAIN_SETS.odds])).toBe('odds');
    expect(setOfColumns(['bid', 'ask'])).toBeNull();
    expect(
      Object.values(CHAIN_SETS)
        .flat()
        .every((id) => id in CHAIN_COLUMNS),
    ).toBe(true);
  });
  it('of one’s own are read as far as they make sense', () => {
    expect(readOwnSets('{"mine":["ask","nothing","bid"],"none":["x"],"odd":3}')).toEqual({ mine: ['ask', 'bid'] });
    expect([readOwnSets('{'), readOwnSets(null), readOwnSets('null')]).toEqual([{}, {}, {}]);
  });
});

describe('cells', () => {
  it('write the values of the worker with the digits that the quote justifies', () => {
    const [call, put] = [side('call', 6), side('put', 6)];
    const { values } = given;
    expect(text(call, 'theory')).toBe(values.call.theory[6]!.toFixed(2));
    expect(text(call, 'delta')).toBe(values.call.delta[6]!.toFixed(2));
    expect(text(call, 'gamma')).toBe(values.call.gamma[6]!.toFixed(4));
    expect(text(put, 'delta')).toBe(`−${Math.abs(values.put.delta[6]!).toFixed(2)}`);
    expect(text(put, 'itm')).toBe((100 * values.put.itm[6]!).toFixed(1));
    expect(text(call, 'openInterest')).toBe('700');
    expect(call.openShare).toBeCloseTo(7 / 13, 12);
  });
  it('multiply Greeks and money, not what is quoted', () => {
    const many = side('call', 6, { ...settings, times: 500 });
    expect(text(many, 'bid')).toBe(text(side('call', 6), 'bid'));
    expect(text(many, 'theta')).toBe(`−${Math.abs(500 * given.values.call.theta[6]!).toFixed(2)}`);
    const mid = cellValue('mid', given, 'call', 6, 'mid');
    expect(Number(text(many, 'cost').replace(/\s/gu, ''))).toBeCloseTo(500 * mid, 1);
  });
  it('take a price apart into what is inside and what time is worth', () => {
    const at = (id: 'mid' | 'intrinsic' | 'time' | 'edge' | 'edgeBid' | 'edgeAsk' | 'carry') =>
      cellValue(id, given, 'call', 2, 'mid');
    expect(at('intrinsic')).toBe(100 - given.slice.strike[2]!);
    expect(at('intrinsic') + at('time')).toBeCloseTo(at('mid'), 12);
    expect(at('edgeBid')).toBeLessThan(at('edge'));
    expect(at('edgeBid') + at('edgeAsk')).toBeCloseTo(given.slice.call.bid[2]! - given.slice.call.ask[2]!, 12);
    expect(at('carry')).toBeCloseTo((at('time') / 100) * (365 / given.slice.fit.days), 12);
  });
  it('judge quotes against theory: inside, rich or cheap, and by how much of the spread', () => {
    const all = given.slice.strike.keys();
    expect(new Set([...all].flatMap((i) => [side('call', i).standing, side('put', i).standing]))).toEqual(
      new Set(['inside']),
    );
    expect(side('call', 6).place).toBeCloseTo(0.5, 1);
    const moved = makeSnapshot();
    const { call, put } = moved.slices[1]!;
    [call.bid[6], call.ask[6]] = [call.bid[6]! - 0.5, call.ask[6]! - 0.5];
    [put.bid[6], put.ask[6]] = [put.bid[6]! + 0.5, put.ask[6]! + 0.5];
    const from = { snapshot: moved, slice: moved.slices[1]!, values: makeValued(moved).values[1]! };
    expect(side('call', 6, settings, from)).toMatchObject({ standing: 'cheap', place: 1.4 });
    expect(side('put', 6, settings, from)).toMatchObject({ standing: 'rich', place: -0.4 });
  });
  it('say why a quote has no vol', () => {
    const faulty = makeSnapshot();
    const { call } = faulty.slices[1]!;
    call.bid[6] = 0;
    call.bid[7] = call.ask[7]! + 1;
    const from = { snapshot: faulty, slice: faulty.slices[1]!, values: makeValued(faulty).values[1]! };
    const at = (i: number) => side('call', i, settings, from);
    expect([at(6).reason, at(7).reason, at(8).reason]).toEqual(['no vol: nobody bids', 'no vol: bid over ask', '']);
    expect([at(6).standing, text(at(6), 'vol'), text(at(6), 'flag'), text(at(8), 'flag')]).toEqual([
      ...['none', '–', 'no bid', ''],
    ]);
    expect(at(6).place).toBeNaN();
    const own = makeValued(faulty, 'own').values[1]!;
    expect(text(side('call', 6, settings, { ...from, values: own }), 'vanna')).toBe('–');
  });
  it('read IV from the quote in use', () => {
    const of = (quotes: 'bid' | 'mid' | 'ask') => Number(text(side('call', 6, { ...settings, quotes }), 'vol'));
    expect(of('bid')).toBeLessThan(of('mid'));
    expect(of('mid')).toBeLessThan(of('ask'));
  });
  it('have higher Greeks that are slopes of those beside them', () => {
    const vol = given.values.call.vol[8]!;
    const at = (level: number) => higherGreeks(given, 'call', 8, level);
    const found = at(vol);
    expect(found.delta).toBeCloseTo(given.values.call.delta[8]!, 9);
    expect(found.vanna).toBeCloseTo((at(vol + 0.001).delta - at(vol - 0.001).delta) / 0.2, 6);
    expect(found.volga).toBeCloseTo((at(vol + 0.001).vega - at(vol - 0.001).vega) / 0.2, 6);
    const american = {
      snapshot: { ...snapshot, exercise: 'american' as const, kind: 'equity' as const },
      slice: given.slice,
    };
    expect(higherGreeks(american, 'put', 10, 0.3).price).toBeGreaterThan(higherGreeks(given, 'put', 10, 0.3).price);
  });
});

describe('lines', () => {
  const { slices } = snapshot;
  it('are heads, and the strikes of what is unfolded from the highest, with water at the forward', () => {
    const items = chainItems(slices, (i) => i === 1, 'all', 0);
    expect(items.filter(({ kind }) => kind === 'head')).toHaveLength(3);
    const strikes = items.flatMap((item) => (item.kind === 'strike' ? [slices[item.slice]!.strike[item.index]!] : []));
    expect(strikes).toEqual(Array.from({ length: 13 }, (_, i) => 112 - 2 * i));
    const water = items.findIndex(({ kind }) => kind === 'water');
    const [above, below] = [items[water - 1]!, items[water + 1]!];
    const strikeOf = (item: (typeof items)[number]) => (item.kind === 'strike' ? slices[1]!.strike[item.index]! : NaN);
    expect(strikeOf(above)).toBeGreaterThan(slices[1]!.fit.forward);
    expect(strikeOf(below)).toBeLessThanOrEqual(slices[1]!.fit.forward);
    // Under the lowest strike the water lies last.
    const low = { ...slices[1]!, fit: { ...slices[1]!.fit, forward: 50 } };
    expect(chainItems([low], () => true, 'all', 0).at(-1)!.kind).toBe('water');
  });
  it('reach so many strikes, per cent or deviations from the forward', () => {
    const { strike } = slices[1]!;
    const one = { strike, fit: { forward: 101, atmVol: 0.2, years: 0.25 } };
    const within = (by: 'strikes' | 'percent' | 'deviations', size: number) =>
      strikesWithin(one, by, size)?.map((i) => strike[i]);
    expect(within('strikes', 2)).toEqual([98, 104]);
    expect(within('percent', 5)).toEqual([96, 106]);
    expect(within('deviations', 0.5)).toEqual([98, 106]);
    expect(within('percent', 0.2)).toBeUndefined();
    expect(strikesWithin({ strike, fit: { ...one.fit, forward: NaN } }, 'percent', 1)).toEqual([0, 12]);
    expect(strikesWithin({ strike: new Float64Array(), fit: one.fit }, 'all', 1)).toBeNull();
  });
  it('know what lies within one expected move, and the first beyond it', () => {
    const strikes = [90, 95, 100, 105, 110, 115];
    expect(strikes.map((_, i) => placeInMove(strikes, i, 101, 6))).toEqual([
      ...['outside', 'inside', 'inside', 'inside', 'at', 'outside'].with(0, 'at'),
    ]);
    expect(placeInMove(strikes, 2, 101, NaN)).toBe('outside');
  });
});

describe('a picked structure', () => {
  const expiry = snapshot.slices[1]!.expiry;
  const leg = (quantity: number, strike: number, name: Side = 'call') => ({
    ...{ symbol: snapshot.symbol, expiry, settlement: 'pm' as const, strike, side: name, quantity },
  });
  const choice = (slice: number) => choiceOf('curve', valued.terms, slice, undefined);
  it('gains a contract with a click, loses it with the other, and has four legs at most', () => {
    const one = withLeg([], leg(1, 100), 1, 4);
    expect(withLeg(one, leg(1, 100), 1, 4)).toEqual([leg(2, 100)]);
    expect(withLeg(one, leg(1, 100), -1, 4)).toEqual([]);
    const four = [100, 102, 104, 106].map((strike) => leg(1, strike));
    expect(withLeg(four, leg(1, 108), 1, 4)).toBe(four);
    expect(legWords(leg(-2, 104, 'put'), '2031')).toBe('−2 17 Apr 104 put');
  });
  it('is worth what its legs are, costs their quotes, and says what it pays and how likely', () => {
    const found = pickedStructure(snapshot, valued.values, [leg(1, 100), leg(-1, 106)], choice) as PickedStructure;
    const { call } = given.values;
    expect(found.value).toBeCloseTo(call.theory[6]! - call.theory[9]!, 12);
    const quotes = given.slice.call;
    expect(found.worst).toBeCloseTo(quotes.ask[6]! - quotes.bid[9]!, 12);
    expect(found.payoff!.maxProfit).toBeCloseTo(6 - found.mid, 12);
    // Odds of profit are those of ending over the break-even: near the odds of the strikes around it.
    const even = found.payoff!.breakEvens[0]!;
    expect(even).toBeCloseTo(100 + found.mid, 12);
    expect(found.odds.gain).toBeLessThan(call.itm[6]!);
    expect(found.odds.gain).toBeGreaterThan(call.itm[9]!);
  });
  it('on the level has the difference of two cumulative normals', () => {
    const level = (slice: number) => choiceOf('level', valued.terms, slice, undefined);
    const strangle = [leg(-1, 106), leg(-1, 94, 'put')];
    const found = pickedStructure(snapshot, makeValued(snapshot, 'level').values, strangle, level) as PickedStructure;
    const [low, high] = found.payoff!.breakEvens as [number, number];
    const { forward, years, rate, atmVol: vol } = given.slice.fit;
    const above = (strike: number) =>
      priceContract({ model: 'black-76', side: 'call', forward, strike, years, rate, vol }).itm;
    expect(found.odds.gain).toBeCloseTo(above(low) - above(high), 9);
  });
  it('over two expiries has no payoff; with a leg that is not listed it says so', () => {
    const calendar = [leg(1, 100), { ...leg(-1, 100), expiry: snapshot.slices[0]!.expiry }];
    expect(pickedStructure(snapshot, valued.values, calendar, choice)).toMatchObject({
      payoff: null,
      odds: { gain: NaN, itm: NaN, touch: NaN },
    });
    expect(pickedStructure(snapshot, valued.values, [leg(1, 101)], choice)).toBe(
      '17 Apr 101 is not listed at this moment.',
    );
  });
});

describe('what meets odds', () => {
  it('is the nearest strike that is safe enough, with its spread', () => {
    const found = metOn(given.slice, given.values, 'put', 'itm', 0.2, 4)!;
    expect(found.odds).toBeLessThanOrEqual(0.2);
    expect(given.values.put.itm[found.index + 1]!).toBeGreaterThan(0.2);
    expect(found.spread!.bought).toBe(found.strike - 4);
    expect(metOn(given.slice, given.values, 'call', 'touch', 0.001, 0)).toBeNull();
  });
});

describe('the decay of a strike', () => {
  it('by expiry, with the vol and the move that undo a day', () => {
    const rows = decayRows(snapshot, valued.values, 100, 'call');
    expect(rows).toHaveLength(3);
    for (const row of rows) {
      expect(row.volChange * row.vega + row.theta).toBeCloseTo(0, 12);
      expect(row.move * Math.abs(row.delta) + row.theta).toBeCloseTo(0, 12);
    }
    // At the money the near expiry decays faster.
    expect(rows[0]!.theta).toBeLessThan(rows[2]!.theta);
    expect(decayRows(snapshot, valued.values, 101, 'call')).toEqual([]);
  });
});

describe('the tape', () => {
  const print = (price: number, size: number, theory: number | null = 5): Print => ({
    ...{ time: '2031-03-13T10:00:00Z', expiry: '2031-04-17', strike: 100, side: 'call', price, size, theory },
    settlement: 'pm',
    ...{ group: null, bid: 4.9, ask: 5.1, theoryAt: null },
  });
  const prints = [print(5.1, 10), print(4.9, 30), print(5, 5), print(5, 7, null)];
  it('tells how far from theory at its time, and where in the spread', () => {
    expect(distanceOf(prints[0]!)).toBeCloseTo(0.1, 12);
    expect(tapeTable(prints).rows[3]![7]).toBeNaN();
    expect(prints.slice(0, 3).map(placeWords)).toEqual(['at the ask', 'at the bid', 'between bid and ask']);
    expect([placeWords({ price: 5.2, bid: 4.9, ask: 5.1 }), placeWords({ price: 4.8, bid: 4.9, ask: 5.1 })]).toEqual([
      ...['over the ask', 'under the bid'],
    ]);
    expect(placeWords({ price: 5, bid: null, ask: 5.1 })).toBe('nothing was quoted then');
    expect(printWork(prints[1]!, 'UTC').lines.at(-1)!.tex).toBe('4.9 - 5 = -0.1');
  });
});

describe('workings of the boards', () => {
  it('of a strike that is safe enough end with what the rules of thumb are wrong by', () => {
    const met = { index: 3, strike: 106, side: 'call' as const, odds: 0.14, delta: 0.18, itm: 0.14, touch: 0.3 };
    const alone = { ...met, credit: 2, worst: 1.9, spread: null };
    const about = { days: 73, price: 100, expiry: { expiry: '2031-04-17', settlement: 'pm' as const }, basis: 'curve' };
    const lines = targetWork(alone, 'itm', 15, about).lines.map(({ tex }) => tex);
    expect(lines[2]).toBe('100 - 2 = 98');
    expect(lines[3]).toContain('0.0204082\\cdot\\frac{365}{73} = 0.102041');
    expect(lines[4]).toMatch(/= 0.04$/);
    expect(lines[5]).toMatch(/= -0.02$/);
    const spread = {
      sold: 106,
      bought: 110,
      width: 4,
      credit: 0.8,
      worst: 0.7,
      risk: 3.2,
      returnOnRisk: 0.25,
      annualized: 1.25,
    };
    expect(targetWork({ ...alone, spread }, 'itm', 15, about).lines[2]!.tex).toBe('4 - 0.8 = 3.2');
  });
  it('of a day end with the move that undoes it', () => {
    const [row] = decayRows(snapshot, valued.values, 100, 'call');
    const lines = decayWork(row!, 100, 'call', 50).lines.map(({ tex }) => tex);
    expect(Number(/(-?[\d.]+)$/.exec(lines[1]!)![1])).toBeCloseTo(50 * row!.theta, 5);
    expect(Number(/(-?[\d.]+)$/.exec(lines.at(-1)!)![1])).toBeCloseTo(-row!.theta / Math.abs(row!.delta), 5);
  });
});
