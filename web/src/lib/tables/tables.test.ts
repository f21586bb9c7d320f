import { describe, expect, it } from 'vitest';
import { figures } from '$lib/formats';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { headsOf, numberColumns, tabbed, textsOf, type DataTable } from './data-table';
import { chainTable, expiriesTable, qualityTable } from './snapshot-tables';
import { nextSorting, sortedRows } from './sorting';

const snapshot = makeSnapshot();
const valued = makeValued(snapshot);
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
