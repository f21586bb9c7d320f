import { describe, expect, it } from 'vitest';
import type { UniverseRow } from '$lib/state/api';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { CHAIN_SETS, chainRows, putColumns, type ChainColumnId, type ChainSide } from './chain';
import { gapOf, nextSorting, sortedUniverse, UNIVERSE_COLUMNS, withPrices } from './universe';

const snapshot = makeSnapshot();
const valued = makeValued(snapshot);
const rowsOf = (set: 'quotes' | 'greeks' | 'all' = 'all') =>
  chainRows(snapshot.slices[1]!, valued.values[1]!, set, 'mid', 100);
const cell = (side: ChainSide, id: ChainColumnId) => {
  const columns = side.texts.length === CHAIN_SETS.all.length ? CHAIN_SETS.all : CHAIN_SETS.quotes;
  return side.texts[columns.indexOf(id)]!;
};
const putCell = (side: ChainSide, id: ChainColumnId) => side.texts[putColumns(CHAIN_SETS.all).indexOf(id)]!;

describe('chain', () => {
  it('has the highest strike first, calls to the left and mirrored puts', () => {
    const rows = rowsOf('quotes');
    expect(rows.map((row) => row.strike)).toEqual(Array.from({ length: 13 }, (_, i) => 112 - 2 * i));
    expect(rows[0]!.call.texts).toHaveLength(CHAIN_SETS.quotes.length);
    expect(putColumns(CHAIN_SETS.quotes)).toEqual([
      'bid',
      'mid',
      'ask',
      'theory',
      'vol',
      'delta',
      'itm',
      'openInterest',
      'volume',
    ]);
  });
  it('writes the values of the worker with the digits that the quote justifies', () => {
    const row = rowsOf().find(({ strike }) => strike === 100)!;
    const i = 6;
    const { values } = valued;
    expect(cell(row.call, 'theory')).toBe(values[1]!.call.theory[i]!.toFixed(2));
    expect(cell(row.call, 'delta')).toBe(values[1]!.call.delta[i]!.toFixed(2));
    expect(cell(row.call, 'gamma')).toBe(values[1]!.call.gamma[i]!.toFixed(4));
    expect(putCell(row.put, 'delta')).toBe(`−${Math.abs(values[1]!.put.delta[i]!).toFixed(2)}`);
    expect(putCell(row.put, 'itm')).toBe((100 * values[1]!.put.itm[i]!).toFixed(1));
    expect(cell(row.call, 'mid')).toBe(
      (0.5 * (snapshot.slices[1]!.call.bid[i]! + snapshot.slices[1]!.call.ask[i]!)).toFixed(2),
    );
    expect(cell(row.call, 'openInterest')).toBe('700');
    expect(row.call.openShare).toBeCloseTo(7 / 13, 12);
  });
  it('judges quotes against theory: inside, rich or cheap', () => {
    expect(new Set(rowsOf().flatMap((row) => [row.call.verdict, row.put.verdict]))).toEqual(new Set(['inside']));
    const cheap = makeSnapshot();
    const { call } = cheap.slices[1]!;
    [call.bid[6], call.ask[6]] = [call.bid[6]! - 0.5, call.ask[6]! - 0.5];
    const { put } = cheap.slices[1]!;
    [put.bid[6], put.ask[6]] = [put.bid[6]! + 0.5, put.ask[6]! + 0.5];
    const moved = makeValued(cheap).values[1]!;
    const row = chainRows(cheap.slices[1]!, moved, 'all', 'mid', 100).find(({ strike }) => strike === 100)!;
    expect([row.call.verdict, row.put.verdict]).toEqual(['cheap', 'rich']);
  });
  it('says why a quote has no vol', () => {
    const faulty = makeSnapshot();
    const { call } = faulty.slices[1]!;
    call.bid[6] = 0;
    call.bid[7] = call.ask[7]! + 1;
    const rows = chainRows(faulty.slices[1]!, makeValued(faulty).values[1]!, 'all', 'mid', 100);
    const at = (strike: number) => rows.find((row) => row.strike === strike)!.call;
    expect([at(100).reason, at(102).reason, at(104).reason]).toEqual([
      'no vol: nobody bids',
      'no vol: bid over ask',
      '',
    ]);
    expect([at(100).verdict, cell(at(100), 'vol')]).toEqual(['none', '–']);
  });
  it('reads IV from the quote in use', () => {
    const of = (quotes: 'bid' | 'mid' | 'ask') =>
      Number(cell(chainRows(snapshot.slices[1]!, valued.values[1]!, 'all', quotes, 100)[6]!.call, 'vol'));
    expect(of('bid')).toBeLessThan(of('mid'));
    expect(of('mid')).toBeLessThan(of('ask'));
  });
});

describe('universe', () => {
  const row = (symbol: string, iv30: number | null, hv20: number | null) =>
    ({ symbol, iv30, hv20, ivToHv: iv30 && hv20 ? iv30 / hv20 : null, series: [] }) as unknown as UniverseRow;
  const rows = [row('A', 0.3, 0.2), row('B', null, 0.4), row('C', 0.5, 0.25), row('D', 0.1, 0.2)];
  const order = (id: string, desc: boolean) =>
    sortedUniverse(rows, [{ id, desc }])
      .map(({ symbol }) => symbol)
      .join('');
  it('sorts either way, with what has no value last', () => {
    expect(order('ivToHv', true)).toBe('CADB');
    expect(order('ivToHv', false)).toBe('DACB');
    expect(order('symbol', true)).toBe('DCBA');
    expect(order('gap', true)).toBe('CADB');
    expect(
      sortedUniverse(rows, [])
        .map(({ symbol }) => symbol)
        .join(''),
    ).toBe('ABCD');
  });
  it('a click turns the order of a column, numbers falling first', () => {
    expect(nextSorting([], 'iv30')).toEqual([{ id: 'iv30', desc: true }]);
    expect(nextSorting([{ id: 'iv30', desc: true }], 'iv30')).toEqual([{ id: 'iv30', desc: false }]);
    expect(nextSorting([{ id: 'iv30', desc: true }], 'symbol')).toEqual([{ id: 'symbol', desc: false }]);
  });
  it('the gap is iv30 less hv20, where there are both', () => {
    expect(gapOf(rows[0]!)).toBeCloseTo(0.1, 12);
    expect(gapOf(rows[1]!)).toBeNull();
    expect(new Set(UNIVERSE_COLUMNS.map((column) => column.id)).size).toBe(UNIVERSE_COLUMNS.length);
  });

  it('takes the prices of a feed that is further on, and the change from the close before where it is known', () => {
    const held = (symbol: string, asof: string | null) =>
      ({ symbol, asof, calendar: 'meridian', price: 100, change: 0.01, closeBefore: 98 }) as unknown as UniverseRow;
    const stored = [held('A', '2031-03-13T16:45:00.000Z'), held('B', '2031-03-13T16:45:00.000Z'), held('C', null)];
    const priced = (moment: string) =>
      withPrices(stored, { moment, prices: { A: 101.92, C: 5 } }).map(({ price, change }) => [price, change]);
    // 101.92 ÷ 98 = 1.04.
    expect(priced('2031-03-13T16:50:00.000Z')[0]![0]).toBe(101.92);
    expect(priced('2031-03-13T16:50:00.000Z')[0]![1]).toBeCloseTo(0.04, 12);
    expect(priced('2031-03-13T16:50:00.000Z').slice(1)).toEqual([
      [100, 0.01],
      [100, 0.01],
    ]);
    // In a session of which nothing is stored, and before what is stored.
    expect(priced('2031-03-14T10:30:05.000Z')[0]).toEqual([101.92, null]);
    expect(priced('2031-03-13T16:30:00.000Z')[0]).toEqual([100, 0.01]);
    expect(withPrices(stored, null)).toBe(stored);
  });
});
