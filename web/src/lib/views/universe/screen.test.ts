import { checkFormula, completionsAt, CONE_SHARES, unitWords } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { tables } from '$lib/server/db';
import {
  measureNamed,
  OFFERED_MEASURES,
  STORED_MEASURES,
  columnNamed,
  expandColumns,
  FLAGS,
  KNOWN_COLUMNS,
  shortColumns,
  USUAL_COLUMNS,
  valueText,
} from '$lib/columns';
import { limitText, withLimit } from './limits';
import { ScreenValues, type ScreenAnswer } from './results';
import { liveChange, nextOrder, orderOf, screenAddress, screenTable } from './rows';
import { SHIPPED_SCREENS } from '$lib/columns';
import {
  bandPath,
  columnsPath,
  coneChart,
  expectedSteps,
  extentOf,
  logarithmic,
  rangeOf,
  sharedRange,
  smallPath,
  wallTable,
  widened,
  type SmallBand,
  type SmallLine,
} from './wall';

describe('measures of formulas', () => {
  it('stand in columns of the store, and have names that formulas can have', () => {
    for (const { column, name } of STORED_MEASURES) {
      expect(tables.measures[column].name, name).not.toBe('');
      expect(checkFormula(name, measureNamed).names).toEqual([name]);
    }
    expect(new Set(OFFERED_MEASURES.map(({ name }) => name)).size).toBe(OFFERED_MEASURES.length);
    for (const { name } of OFFERED_MEASURES) expect(measureNamed(name)?.name).toBe(name);
  });
  it('are historical vols of any window within bounds', () => {
    expect(measureNamed('hv45.gk')!.title).toBe('historical vol over 45 sessions, garman-klass');
    expect([measureNamed('hv1.gk'), measureNamed('hv9999.gk'), measureNamed('hv20.xx'), measureNamed('iv31')]).toEqual([
      null,
      null,
      null,
      null,
    ]);
    expect(unitWords(checkFormula('iv30 / hv60.yz - 1', measureNamed).unit)).toBe('a plain number');
    expect(completionsAt('hv20.', 5, OFFERED_MEASURES).words.map(({ text }) => text)).toContain('hv20.yz');
  });
});

describe('screens that come along', () => {
  it('make sense, each with conditions and a name of its own', () => {
    expect(SHIPPED_SCREENS).toHaveLength(6);
    expect(new Set(SHIPPED_SCREENS.map(({ name }) => name)).size).toBe(6);
    for (const { columns, filters, sort } of SHIPPED_SCREENS) {
      expect(expandColumns(columns)).toHaveLength(columns.length - 1 + USUAL_COLUMNS.length);
      expect(columnNamed(orderOf(sort).key), sort).not.toBeNull();
      expect(filters.length).toBeGreaterThan(0);
      for (const filter of filters) expect(checkFormula(filter, measureNamed).kind).toBe('truth');
    }
  });
});

describe('limits of columns', () => {
  it('are conditions that make sense, of the column that they stand under', () => {
    const limited = KNOWN_COLUMNS.flatMap(({ formula, limit }) =>
      formula !== null && limit ? [{ formula, isPercent: limit === 'percent' }] : [],
    );
    expect(limited.length).toBeGreaterThan(10);
    for (const one of limited) {
      const [condition] = withLimit([], one, 'min', '-1.5')!;
      expect(checkFormula(condition!, measureNamed).kind).toBe('truth');
      expect(limitText([condition!], one, 'min')).toBe('-1.5');
    }
  });
  it('replace each other, go when nothing is typed, and leave other conditions alone', () => {
    const iv30 = { formula: 'iv30', isPercent: true };
    const first = withLimit(['rr25 > 0', 'iv30 >= hv20.yz'], iv30, 'min', ' 20 ')!;
    expect(first).toEqual(['rr25 > 0', 'iv30 >= hv20.yz', 'iv30 >= 20%']);
    const both = withLimit(withLimit(first, iv30, 'min', '25')!, iv30, 'max', '50')!;
    expect(both).toEqual(['rr25 > 0', 'iv30 >= hv20.yz', 'iv30 >= 25%', 'iv30 <= 50%']);
    expect([limitText(both, iv30, 'min'), limitText(both, iv30, 'max')]).toEqual(['25', '50']);
    expect(withLimit(both, iv30, 'min', '')).toEqual(['rr25 > 0', 'iv30 >= hv20.yz', 'iv30 <= 50%']);
    expect(withLimit(both, iv30, 'min', 'many')).toBeNull();
    expect(withLimit([], { formula: 'slope', isPercent: true }, 'max', '−1')).toEqual(['slope <= -1%']);
  });
});

describe('columns of the Universe', () => {
  it('are known by keys of their own, all of which make sense', () => {
    expect(new Set(KNOWN_COLUMNS.map(({ key }) => key)).size).toBe(KNOWN_COLUMNS.length);
    for (const { key, formula, look, write, limit } of KNOWN_COLUMNS) {
      if (formula !== null) expect(checkFormula(formula, measureNamed).kind, key).toBe('number');
      expect(write(null), key).toMatch(/^–?$/);
      if (look === 'line' || formula === null) expect(limit, key).toBeNull();
    }
    for (const { formula } of FLAGS) expect(checkFormula(formula, measureNamed).kind).toBe('truth');
    expect(USUAL_COLUMNS.every((key) => columnNamed(key) !== null)).toBe(true);
  });
  it('are any formula, and its line', () => {
    expect(columnNamed('iv30 - iv90')).toMatchObject({ formula: 'iv30 - iv90', look: 'strong', limit: 'percent' });
    expect(columnNamed('~iv30 - iv90')).toMatchObject({ formula: 'iv30 - iv90', look: 'line', limit: null });
    expect(columnNamed('iv30 > 1')!.write(1)).toBe('yes');
    expect(columnNamed('iv30 / iv90')!.write(1.234)).toBe('1.23');
    expect([columnNamed('iv31'), columnNamed('~'), columnNamed('~iv30 > 1'), columnNamed('')]).toEqual([
      null,
      null,
      null,
      null,
    ]);
  });
  it('are written short where the usual ones stand at the end', () => {
    const all = ['iv7', ...USUAL_COLUMNS];
    expect(shortColumns(all)).toEqual(['iv7', '*']);
    expect(expandColumns(shortColumns(all))).toEqual(all);
    const turned = [...USUAL_COLUMNS].reverse();
    expect(shortColumns(turned)).toEqual(turned);
    expect(expandColumns(['iv31', 'iv7', 'iv7'])).toEqual(['iv7']);
  });
  it('are read by their unit', () => {
    expect(valueText('vol', 'number', 0.2512)).toBe('25.1');
    expect(valueText('a plain number', 'number', 1.234)).toBe('1.23');
    expect(valueText('count', 'number', 12345.4)).toBe('12\u2009345');
    expect(valueText('a plain number', 'truth', 1)).toBe('yes');
    expect(valueText('vol', 'number', null)).toBe('–');
  });
});

describe('the order of the Universe', () => {
  it('falls first for numbers, rises first for words, and turns', () => {
    expect(orderOf('iv30|rising')).toEqual({ key: 'iv30', isRising: true });
    expect(nextOrder('price', 'iv30', false)).toBe('iv30');
    expect(nextOrder('iv30', 'iv30', false)).toBe('iv30|rising');
    expect(nextOrder('iv30|rising', 'iv30', false)).toBe('iv30');
    expect(nextOrder('iv30', 'symbol', true)).toBe('symbol|rising');
  });
});

const facts = { kind: 'equity' as const, asof: null, frontExpiry: null, event: null, series: [] };

describe('what a screen answers', () => {
  const answer: ScreenAnswer = {
    columns: [
      { formula: 'iv30', unit: 'vol', kind: 'number' },
      { formula: 'event <= 10', unit: 'a plain number', kind: 'truth' },
    ],
    filters: [{ formula: 'iv30 > 20%', removed: 2 }],
    ...{ looked: 3, left: 1 },
    rows: [{ ...facts, symbol: 'A', name: 'Alder', columns: [0.25, 1] }],
  };
  const values = new ScreenValues(answer);
  it('is read by formula', () => {
    expect(values.of(answer.rows[0]!, 'iv30')).toBe(0.25);
    expect(values.of(answer.rows[0]!, 'iv90')).toBeNull();
    expect([values.removed('iv30 > 20%'), values.removed('iv30 > 0')]).toEqual([2, null]);
  });
  it('goes into a file by the columns in view, without lines', () => {
    const columns = ['~iv30', 'flags', 'iv30', 'family'].flatMap((key) => columnNamed(key) ?? []);
    const table = screenTable(
      answer.rows,
      columns,
      (row, formula) => values.of(row, formula),
      () => 'TREES',
    );
    expect(table.columns.map(({ name }) => name)).toEqual(['symbol', 'name', 'asof', 'flags', 'iv30', 'family']);
    expect(table.rows).toEqual([['A', 'Alder', null, 'event', 0.25, 'TREES']]);
  });
  it('has an address for spreadsheets, of the formulas alone', () => {
    const address = screenAddress({
      ...{ asof: null, keep: ['iv30 > 20%'], kinds: ['fx'], families: ['A', 'B'], sort: 'iv30|rising' },
      columns: ['~iv30', 'flags', 'iv30', 'iv30 / hv20.yz'].flatMap((key) => columnNamed(key) ?? []),
    });
    const query = new URL(address, 'http://localhost').searchParams;
    expect(query.getAll('column')).toEqual(['iv30', 'iv30 / hv20.yz']);
    expect(query.getAll('family')).toEqual(['A', 'B']);
    expect(Object.fromEntries(query)).toMatchObject({ filter: 'iv30 > 20%', sort: 'iv30', order: 'rising' });
  });
  it('has the change of a feed that is further on where the close before is known', () => {
    const of = (moment: string, before: number | null) =>
      liveChange(101.92, before, 'MRX', '2031-03-13T16:45:00.000Z', moment);
    // 101.92 ÷ 98 = 1.04.
    expect(of('2031-03-13T16:50:00.000Z', 98)).toBeCloseTo(0.04, 12);
    expect(of('2031-03-14T14:50:00.000Z', 98)).toBeNull();
    expect(of('2031-03-13T16:50:00.000Z', null)).toBeNull();
  });
});

describe('the wall', () => {
  it('a shared axis leaves out the outermost hundredth at either end, so that one name does not flatten the others', () => {
    const line = (y: number[]) => ({ lines: [{ x: y.map((_, i) => i), y, color: 'implied' as const }], bands: [] });
    const usual = Array.from({ length: 100 }, (_, i) => 0.2 + i / 1000);
    const [low, high] = sharedRange([line(usual), line(usual), line([5])])!;
    expect(low).toBeCloseTo(0.201, 3);
    expect(high).toBeCloseTo(0.299, 3);
    expect(rangeOf([line(usual), line([5])])).toEqual([0.2, 5]);
    expect(sharedRange([line([NaN])])).toBeNull();
  });
  const line = (y: number[], x = [...y.keys()]): SmallLine => ({ x, y, color: 'implied' });
  const chart = (lines: SmallLine[], bands: SmallBand[] = []) => ({ lines, bands });
  const box = (range: [number, number], extent: [number, number]) => ({ range, extent, width: 30, height: 10 });
  it('draws lines between the least and the most, broken where nothing is known', () => {
    const drawn = line([0.1, NaN, 0.3, 0.2]);
    expect(rangeOf([chart([drawn])])).toEqual([0.1, 0.3]);
    expect(smallPath(drawn, box([0.1, 0.3], [0, 3]))).toBe('M0.0 10.0M20.0 0.0L30.0 5.0');
    expect([rangeOf([chart([line([NaN])])]), extentOf(chart([]))]).toEqual([null, null]);
    expect(logarithmic(chart([line([1, Math.E, 0])])).lines[0]!.y).toEqual([0, 1, NaN]);
    // What hardly moves is not blown up.
    expect(widened([0.2, 0.4])).toEqual([expect.closeTo(0.2, 12), expect.closeTo(0.4, 12)]);
    expect(widened([0.2, 0.2])).toEqual([expect.closeTo(0.19, 12), expect.closeTo(0.21, 12)]);
    expect(smallPath(line([2], [1]), box([1, 3], [1, 1]))).toBe('M15.0 5.0');
  });
  it('draws bands and columns', () => {
    const band: SmallBand = { x: [0, 1, 2], low: [1, NaN, 1], high: [3, 3, 2], color: 'realized' };
    expect(bandPath(band, box([1, 3], [0, 2]))).toBe('M0.0 0.0L30.0 5.0L30.0 10.0L0.0 10.0Z');
    expect(bandPath({ ...band, low: [NaN, NaN, 1] }, box([1, 3], [0, 2]))).toBe('');
    expect(rangeOf([chart([], [band])])).toEqual([1, 3]);
    expect(columnsPath([30, NaN, 15], { width: 30, height: 30 })).toBe(
      'M0.0 30h8.0v-10.0h-8.0zM20.0 30h8.0v-5.0h-8.0z',
    );
    expect(columnsPath([NaN], { width: 30, height: 30 })).toBe('');
  });
  it('steps by what was expected each time another expiry became the first', () => {
    const price = [100, 101, 102, 110, 111];
    const move = [3, 2, 1, 4, 3];
    expect(expectedSteps(price, move, [2, 1, 0, 7, 6])).toEqual([
      { from: 0, to: 2, low: 97, high: 103 },
      { from: 3, to: 4, low: 106, high: 114 },
    ]);
    // What is not known belongs to the step that runs; one begins where there is something.
    expect(expectedSteps(price, move, [NaN, NaN, 0, 7, 6])[0]).toMatchObject({ from: 0, to: 2 });
    expect(expectedSteps([NaN, 101], move, [2, 1])).toEqual([{ from: 1, to: 1, low: 99, high: 103 }]);
    expect(expectedSteps([], [], [])).toEqual([]);
  });
  it('lays the vols ahead over the cone, and goes into a file point by point', () => {
    const quantiles = [CONE_SHARES.map((share) => share / 10), CONE_SHARES.map(() => null)];
    const cone = { symbol: 'A', bars: 30, quantiles, now: [0.05, null], term: [0.06] };
    const { lines, bands } = coneChart({ windows: [10, 20], sessions: [21] }, cone);
    expect(bands.map(({ low, high }) => [low[0], high[0]])).toEqual([
      [0, 0.1],
      [0.025, 0.075],
    ]);
    expect(lines[1]!.x[0]).toBeCloseTo(Math.log(21), 12);
    const table = wallTable([{ symbol: 'A', chart: { lines, bands, columns: [7] } }]);
    expect(table.rows).toHaveLength(2 + 1 + 4 + 1);
    expect(table.rows.at(-1)).toEqual(['A', 'columns', 0, 7, null]);
  });
});
