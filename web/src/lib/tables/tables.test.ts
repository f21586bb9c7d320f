import { describe, expect, it } from 'vitest';
import { figures } from '$lib/formats';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { CHAIN_SETS, chainRows, putColumns, type ChainColumnId, type ChainSide } from './chain';
import { headsOf, numberColumns, tabbed, textsOf, type DataTable } from './data-table';
import { chainTable, expiriesTable, qualityTable } from './snapshot-tables';
import { nextSorting, sortedRows } from './sorting';

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

describe('sorting', () => {
  it('sorts any rows, what has no number last either way', () => {
    const columns = [{ id: 'a', value: (row: { a: number | null }) => row.a }];
    const rows = [{ a: NaN }, { a: 2 }, { a: null }, { a: 3 }, { a: 1 }];
    const of = (desc: boolean) => sortedRows(rows, columns, [{ id: 'a', desc }]).map(({ a }) => a);
    expect(of(false)).toEqual([1, 2, 3, NaN, null]);
    expect(of(true).slice(0, 3)).toEqual([3, 2, 1]);
    expect(sortedRows(rows, columns, [])).toEqual(rows);
  });
  it('a click turns the order of a column, numbers falling first', () => {
    expect(nextSorting([], 'iv30', false)).toEqual([{ id: 'iv30', desc: true }]);
    expect(nextSorting([{ id: 'iv30', desc: true }], 'iv30', false)).toEqual([{ id: 'iv30', desc: false }]);
    expect(nextSorting([{ id: 'iv30', desc: true }], 'symbol', true)).toEqual([{ id: 'symbol', desc: false }]);
  });
});

describe('tables as data', () => {
  const values = valued.values;
  it('hold exact values, and are read as the screen writes them', () => {
    const table: DataTable = {
      columns: [
        { name: 'expiry', type: 'day' },
        ...numberColumns(['mid_vol', 'gap'], (value) => figures.vol(value, 2)),
        ...numberColumns(['count']),
      ],
      rows: [
        ['2031-04-17', 0.212345, NaN, 3],
        [null, 0.3, null, 4],
      ],
    };
    expect(headsOf(table)).toEqual(['expiry', 'mid vol', 'gap', 'count']);
    expect(textsOf(table)).toEqual([
      ['2031-04-17', '21.23', '–', '3'],
      ['', '30.00', '', '4'],
    ]);
    expect(tabbed(table).split('\n')[1]).toBe('2031-04-17\t21.23\t–\t3');
  });
  it('a chain has a row per contract, with the numbers of the worker', () => {
    const at = [...snapshot.slices.keys()];
    const { columns, rows } = chainTable(snapshot, values, 'curve', at);
    const contracts = snapshot.slices.reduce((sum, { strike }) => sum + 2 * strike.length, 0);
    expect(rows).toHaveLength(contracts);
    expect(chainTable(snapshot, values, 'curve', [1]).rows).toHaveLength(2 * snapshot.slices[1]!.strike.length);
    const column = (name: string) => columns.findIndex((one) => one.name === name);
    const slice = snapshot.slices[1]!;
    const row = rows.find(
      (one) => one[column('expiry')] === slice.expiry && one[column('strike')] === 100 && one[column('side')] === 'P',
    )!;
    const i = slice.strike.indexOf(100);
    expect(row[column('bid')]).toBe(slice.put.bid[i]);
    expect(row[column('mid_vol')]).toBe(values[1]!.putVols.mid[i]);
    expect(row[column('delta')]).toBe(values[1]!.put.delta[i]);
    expect(row[column('basis')]).toBe('curve');
    expect(row[column('reason')]).toBeNull();
    for (const one of rows) expect(one).toHaveLength(columns.length);
  });
  it('expiries and their quality have a row each', () => {
    for (const table of [expiriesTable(snapshot), qualityTable(snapshot)]) {
      expect(table.rows.map((row) => row[2])).toEqual(snapshot.slices.map(({ expiry }) => expiry));
      for (const row of table.rows) expect(row).toHaveLength(table.columns.length);
    }
    const { columns, rows } = expiriesTable(snapshot);
    expect(rows[0]![columns.findIndex(({ name }) => name === 'atm_vol')]).toBe(snapshot.slices[0]!.fit.atmVol);
  });
});
