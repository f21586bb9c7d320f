import { checkFormula, completionsAt, unitWords } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { tables } from '$lib/server/db';
import { measureNamed, OFFERED_MEASURES, STORED_MEASURES } from './measures';
import { SHIPPED_SCREENS } from './shipped';
import { isLeft, screenOrders, screenText, type ScreenAnswer } from './results';

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

describe('what a screen answers', () => {
  const answer: ScreenAnswer = {
    columns: [{ formula: 'iv30', unit: 'vol', kind: 'number' }],
    filters: [{ formula: 'iv30 > 20%', removed: 2 }],
    left: 1,
    rows: [
      { symbol: 'A', columns: [0.25], filters: [true] },
      { symbol: 'B', columns: [0.15], filters: [false] },
      { symbol: 'C', columns: [null], filters: [null] },
    ],
  };
  it('leaves those that pass, and not those of which it cannot be known', () => {
    expect(['A', 'B', 'C', 'D'].map((symbol) => isLeft(answer, symbol))).toEqual([true, false, false, false]);
    expect(isLeft(null, 'D')).toBe(true);
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
