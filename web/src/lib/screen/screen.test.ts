import { checkFormula, completionsAt, unitWords } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { tables } from '$lib/server/db';
import { measureNamed, OFFERED_MEASURES, STORED_MEASURES } from './measures';
import { logarithmic, rangeOf, smallPath, WALL_SOURCES, wallLines, widened } from './wall';
import { UNIVERSE_COLUMNS } from '$lib/tables';
import { limitText, withLimit } from './limits';
import { SHIPPED_SCREENS } from './shipped';
import { leftBy, screenOrders, screenText, type ScreenAnswer } from './results';

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
    for (const { columns, filters } of SHIPPED_SCREENS) {
      for (const column of columns) checkFormula(column, measureNamed);
      expect(filters.length).toBeGreaterThan(0);
      for (const filter of filters) expect(checkFormula(filter, measureNamed).kind).toBe('truth');
    }
  });
});

describe('limits of columns', () => {
  it('are conditions that make sense, of the column that they stand under', () => {
    const limited = UNIVERSE_COLUMNS.flatMap(({ limit }) => limit ?? []);
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

describe('the wall', () => {
  it('asks for formulas that make sense', () => {
    for (const { series, columns } of Object.values(WALL_SOURCES))
      for (const formula of [...series, ...columns]) expect(checkFormula(formula, measureNamed).kind).toBe('number');
  });
  it('draws lines between the least and the most, broken where nothing is known', () => {
    const lines = wallLines('vols', { series: [[0.1, null, 0.3, 0.2]], columns: [] });
    expect(lines[0]!.y[1]).toBeNaN();
    expect(rangeOf(lines)).toEqual([0.1, 0.3]);
    expect(smallPath(lines[0]!, [0.1, 0.3], { width: 30, height: 10 })).toBe('M0.0 10.0M20.0 0.0L30.0 5.0');
    expect(rangeOf([{ x: [0], y: [NaN] }])).toBeNull();
    expect(logarithmic([{ x: [0, 1, 2], y: [1, Math.E, 0] }])[0]!.y).toEqual([0, 1, NaN]);
    // What hardly moves is not blown up.
    expect(widened([0.2, 0.4])).toEqual([expect.closeTo(0.2, 12), expect.closeTo(0.4, 12)]);
    expect(widened([0.2, 0.2])).toEqual([expect.closeTo(0.19, 12), expect.closeTo(0.21, 12)]);
    const [term] = wallLines('term', { series: [], columns: [0.3, 0.2, null, 0.2, 0.2, 0.2] });
    expect(term!.x[1]).toBeCloseTo(Math.log(30), 12);
    expect(smallPath({ x: [1], y: [2] }, [1, 3], { width: 30, height: 10 })).toBe('M15.0 5.0');
  });
});

describe('what a screen answers', () => {
  const answer: ScreenAnswer = {
    columns: [{ formula: 'iv30', unit: 'vol', kind: 'number' }],
    filters: [{ formula: 'iv30 > 20%', removed: 2 }],
    left: 1,
    rows: [
      { symbol: 'A', columns: [0.25], series: [], filters: [true] },
      { symbol: 'B', columns: [0.15], series: [], filters: [false] },
      { symbol: 'C', columns: [null], series: [], filters: [null] },
    ],
  };
  it('leaves those that pass, and not those of which it cannot be known', () => {
    expect([...leftBy(answer)]).toEqual(['A']);
    expect([...leftBy({ ...answer, rows: answer.rows.map((row) => ({ ...row, filters: [] })) })]).toEqual([
      'A',
      'B',
      'C',
    ]);
  });
  it('is sorted by and read by its unit', () => {
    const [order] = screenOrders(answer);
    expect(['A', 'B', 'C'].map((symbol) => order!.value({ symbol }))).toEqual([0.25, 0.15, null]);
    expect(screenOrders(null)).toEqual([]);
    expect(screenText('vol', 'number', 0.2512)).toBe('25.1');
    expect(screenText('a plain number', 'number', 1.234)).toBe('1.23');
    expect(screenText('count', 'number', 12345.4)).toBe('12\u2009345');
    expect(screenText('a plain number', 'truth', 1)).toBe('yes');
    expect(screenText('vol', 'number', null)).toBe('–');
  });
});
