import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rankOf } from '../realized';
import {
  checkFormula,
  completionsAt,
  evaluateFormula,
  formulaSeries,
  FormulaError,
  FUNCTIONS,
  MOST_CHARACTERS,
  MOST_SESSIONS,
  parseFormula,
  unitWords,
  type Formula,
  type Measure,
} from '.';

const MEASURES: Measure[] = [
  { name: 'iv30', unit: { vol: 1 }, title: '30-day vol' },
  { name: 'hv60.yz', unit: { vol: 1 }, title: 'Yang–Zhang over 60 sessions' },
  { name: 'rr25', unit: { vol: 1 }, title: 'risk reversal' },
  { name: 'price', unit: { price: 1 }, title: 'price' },
  { name: 'move', unit: { price: 1 }, title: 'expected move' },
  { name: 'volume', unit: { count: 1 }, title: 'options traded' },
  { name: 'quality', unit: {}, title: '0 to 100' },
];
const measure = (name: string) => MEASURES.find((one) => one.name === name) ?? null;
const check = (source: string) => checkFormula(source, measure);

/** Values of measures over the last five sessions. */
const HELD: Record<string, number[]> = {
  iv30: [0.2, 0.3, 0.25, NaN, 0.24],
  'hv60.yz': [0.1, 0.1, 0.1, 0.1, 0.2],
  rr25: [-0.05, -0.04, -0.05, -0.06, -0.07],
  price: [100, 101, 102, 103, 104],
  move: [2, 2, 2, 2, 5.2],
  volume: [10, 20, 30, 40, 50],
  quality: [90, 90, 90, 90, NaN],
};
const series = (name: string, sessions: number) => {
  const held = HELD[name]!;
  return Float64Array.from({ length: sessions }, (_, i) => held[held.length - sessions + i] ?? NaN);
};
const value = (source: string) => evaluateFormula(check(source), series);

/** What is wrong, and the characters that it is about. */
function fault(source: string): [message: string, at: string] {
  try {
    check(source);
  } catch (error) {
    if (!(error instanceof FormulaError)) throw error;
    return [error.message, source.slice(error.from, error.to)];
  }
  throw new Error(`nothing is wrong with ${source}`);
}

describe('formulas', () => {
  it('are worth what they say', () => {
    expect(value('iv30 / hv60.yz - 1')).toBeCloseTo(0.2, 12);
    expect(value('rr25 - avg(rr25, 5)')).toBeCloseTo(-0.07 + 0.054, 12);
    expect(value('rank(iv30, 5)')).toBeCloseTo(rankOf([0.2, 0.3, 0.25, NaN, 0.24])!.rank, 12);
    expect(value('100 * move / price')).toBeCloseTo(5, 12);
    expect(value('iv30 > 20% and volume >= 50')).toBe(1);
    expect(value('iv30 > 20% and not volume >= 50')).toBe(0);
    expect(value('if(iv30 > hv60.yz, iv30, hv60.yz)')).toBe(0.24);
    expect(value('change(price, 2)')).toBe(2);
    expect(value('ago(price, 4)')).toBe(100);
    expect([value('low(iv30, 5)'), value('high(iv30, 5)'), value('sd(volume, 3)')]).toEqual([0.2, 0.3, 10]);
    expect(value('pct(volume, 5)')).toBe(1);
    expect(value('z(volume, 3)')).toBeCloseTo(1, 12);
    expect(value('most(iv30, hv60.yz, 0.5)')).toBe(0.5);
    expect(value('least(1, 2) + abs(-3) + sqrt(4) + exp(0) + ln(1)')).toBe(7);
    // Series of what is worked out, and of series.
    expect(value('avg(iv30 / hv60.yz, 2)')).toBeCloseTo(1.2, 12);
    expect(value('change(avg(price, 2), 1)')).toBeCloseTo(1, 12);
  });
  it('bind as is usual: powers, then signs, products, sums, comparisons, not, and, or', () => {
    expect(value('2 + 3 * 4')).toBe(14);
    expect(value('(2 + 3) * 4')).toBe(20);
    expect(value('10 - 3 - 2')).toBe(5);
    expect(value('24 / 4 / 2')).toBe(3);
    expect(value('-2 ^ 2')).toBe(-4);
    expect(value('2 ^ 3 ^ 2')).toBe(512);
    expect(value('2 ^ -1')).toBe(0.5);
    expect(value('1 > 2 and 1 > 2 or 2 > 1')).toBe(1);
    expect(value('not 1 > 2 and 2 > 1')).toBe(1);
    expect(value('50% + 1.5e2')).toBe(150.5);
  });
  it('say nothing of what cannot be known, and what is decided all the same', () => {
    expect(value('quality')).toBeNaN();
    expect(value('quality > 50')).toBeNaN();
    expect(value('quality > 50 and iv30 < 1%')).toBe(0);
    expect(value('quality > 50 or iv30 > 1%')).toBe(1);
    expect(value('quality > 50 and iv30 > 1%')).toBeNaN();
    expect(value('if(quality > 50, 1, 2)')).toBeNaN();
    expect(value('price / (volume - 50)')).toBeNaN();
    expect(value('ago(price, 9)')).toBeNaN();
  });
  it('are worked out over sessions as their last values are', () => {
    const found = formulaSeries(check('change(price, 1) / avg(volume, 2)'), 3, series);
    expect([...found]).toEqual([1 / 25, 1 / 35, 1 / 45]);
    expect([...formulaSeries(check('1 / (price - 103)'), 3, series)]).toEqual([-1, NaN, 1]);
    expect([...formulaSeries(check('price'), 7, series)].slice(0, 3)).toEqual([NaN, NaN, 100]);
  });
  it('know how far back they read, their unit and their measures', () => {
    expect(check('rank(iv30, 120)').sessions).toBe(119);
    expect(check('change(avg(price, 20), 5)').sessions).toBe(24);
    expect(check('iv30 - hv60.yz')).toMatchObject({ sessions: 0, names: ['iv30', 'hv60.yz'], kind: 'number' });
    const unit = (source: string) => unitWords(check(source).unit);
    expect(unit('iv30 - hv60.yz')).toBe('vol');
    expect(unit('iv30 / hv60.yz')).toBe('a plain number');
    expect(unit('price * volume')).toBe('price·count');
    expect(unit('iv30 / price ^ 2')).toBe('vol per price^2');
    expect(unit('sqrt(iv30 ^ 2)')).toBe('vol');
    expect(unit('1 / price')).toBe('1 per price');
    expect(check('iv30 > 20%').kind).toBe('truth');
  });
});

describe('what is wrong with a formula', () => {
  it.each([
    ['', 'nothing is written yet', ''],
    ['iv30 +', 'the formula ends too early: a number, a measure, a function or a bracket is wanted', ''],
    [
      'iv30 hv60.yz',
      '“hv60.yz” does not belong here: the formula should end here, or go on with an operator',
      'hv60.yz',
    ],
    ['iv31 > 1', 'there is no measure “iv31”', 'iv31'],
    ['rank > 1', 'rank is a function: rank(…)', 'rank'],
    ['mean(iv30, 5)', 'there is no function “mean”', 'mean'],
    ['constructor(iv30)', 'there is no function “constructor”', 'constructor'],
    ['iv30 + price', 'vol and price cannot be held against each other', 'iv30 + price'],
    ['iv30 > volume', 'vol and count cannot be held against each other', 'iv30 > volume'],
    ['ln(price)', 'ln takes a plain number, not price', 'price'],
    ['price ^ iv30', 'the power of a unit must be written out', 'iv30'],
    ['2 ^ iv30', 'a power is a plain number', 'iv30'],
    ['iv30 and 1 > 0', 'a condition is wanted here, such as iv30 > 20%', 'iv30'],
    ['1 + (iv30 > 0)', 'a number is wanted here, not a condition', '(iv30 > 0)'],
    ['0 < iv30 < 1', '“<” does not belong here: join comparisons by “and”', '<'],
    ['rank(iv30)', 'rank takes a measure and a number of sessions', 'rank(iv30)'],
    ['rank(iv30, 1)', `sessions are a whole number from 2 to ${MOST_SESSIONS}`, '1'],
    ['rank(iv30, 2.5)', `sessions are a whole number from 2 to ${MOST_SESSIONS}`, '2.5'],
    ['rank(iv30, volume)', `sessions are a whole number from 2 to ${MOST_SESSIONS}`, 'volume'],
    ['abs(1, 2)', 'abs takes 1 number', 'abs(1, 2)'],
    ['most(1)', 'most takes 2 to 8 numbers', 'most(1)'],
    ['if(iv30, 1, 2)', 'a condition is wanted here, such as iv30 > 20%', 'iv30'],
    ['if(1 > 0, 1)', 'if takes a condition and two numbers', 'if(1 > 0, 1)'],
    ['(iv30', 'the formula ends too early: the bracket is not closed', ''],
    ['iv30 # 2', '“#” means nothing here', '#'],
    ['1e999', 'this number is too large', '1e999'],
    ['and', '“and” does not belong here: a number, a measure, a function or a bracket is wanted', 'and'],
  ])('%s', (source, message, at) => {
    expect(fault(source)).toEqual([message, at]);
  });
  it('stands in itself too often, is too long, or reads too far back', () => {
    const deep = `${'('.repeat(60)}1${')'.repeat(60)}`;
    expect(fault(deep)[0]).toBe('too many parts stand in each other');
    expect(fault(`${'-'.repeat(60)}1`)[0]).toBe('too many parts stand in each other');
    expect(fault(`1${' + 1'.repeat(MOST_CHARACTERS)}`)[0]).toBe(`a formula has at most ${MOST_CHARACTERS} characters`);
    expect(fault('avg(avg(price, 1000), 1000)')[0]).toContain('it looks back 1998 sessions');
  });
});

describe('completion', () => {
  const words = (source: string, at = source.length) =>
    completionsAt(source, at, MEASURES).words.map(({ text }) => text);
  it('offers measures and functions that begin so, then those that hold it', () => {
    expect(words('iv')).toEqual(['iv30']);
    expect(words('r').slice(0, 2)).toEqual(['rr25', 'rank']);
    expect(words('iv30 / hv60.')).toEqual(['hv60.yz']);
    expect(words('ran')).toEqual(['rank']);
    expect(words('an')).toEqual(['and', 'rank', 'change']);
    expect(completionsAt('1 + ra', 6, MEASURES)).toMatchObject({ from: 4, to: 6 });
  });
  it('offers everything where nothing is begun, and nothing inside a number', () => {
    expect(words('iv30 + ')).toHaveLength(MEASURES.length + Object.keys(FUNCTIONS).length + 3);
    expect(words('12')).toEqual([]);
    expect(words('1.5')).toEqual([]);
  });
});

describe('whatever is written', () => {
  it('is either understood or told what is wrong within it, and nothing else happens', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        'iv30',
        'hv60.yz',
        'price',
        'rank',
        'avg',
        'if',
        'and',
        'or',
        'not',
        '(',
        ')',
        ',',
        '+',
        '-',
        '*',
        '/',
      ),
      fc.constantFrom('^', '<', '<=', '=', '!=', '%', '20', '1.5', '120', ' ', '__proto__', 'toString', '“', '\n', '.'),
      fc.string({ maxLength: 3, unit: 'binary' }),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 25 }), (pieces) => {
        const source = pieces.join(' ').slice(0, MOST_CHARACTERS);
        try {
          const checked = check(source);
          const found = evaluateFormula(checked, series);
          expect(typeof found).toBe('number');
          if (checked.kind === 'truth') expect([0, 1, NaN]).toContain(found);
        } catch (error) {
          expect(error).toBeInstanceOf(FormulaError);
          const { from, to } = error as FormulaError;
          expect(from).toBeGreaterThanOrEqual(0);
          expect(to).toBeGreaterThan(from);
          expect(from).toBeLessThanOrEqual(Math.max(1, source.length));
        }
      }),
      { numRuns: 5000 },
    );
  });
  it('comes out as plain arithmetic does, however it is bracketed', () => {
    interface Sum {
      text: string;
      value: number;
    }
    const { sum } = fc.letrec<{ sum: Sum }>((tie) => ({
      sum: fc.oneof(
        { maxDepth: 4, withCrossShrink: true },
        fc.integer({ min: 0, max: 99 }).map((n) => ({ text: String(n), value: n })),
        fc.tuple(tie('sum'), fc.constantFrom('+', '-', '*'), tie('sum')).map(([a, operator, b]) => ({
          text: `(${a.text} ${operator} ${b.text})`,
          value: operator === '+' ? a.value + b.value : operator === '-' ? a.value - b.value : a.value * b.value,
        })),
        tie('sum').map((a) => ({ text: `(-${a.text})`, value: -a.value })),
      ),
    }));
    fc.assert(
      fc.property(sum, ({ text, value: expected }) => {
        fc.pre(text.length <= MOST_CHARACTERS);
        // Nothing is nothing, with a sign or without.
        expect(value(text) === expected).toBe(true);
      }),
    );
  });
  it('spans of parts hold the parts', () => {
    const inside = (outer: Formula, inner: Formula) => inner.from >= outer.from && inner.to <= outer.to;
    const formula = parseFormula('rank(iv30 + 1, 20) > -(price * 2)') as Formula & { kind: 'binary' };
    expect(inside(formula, formula.left) && inside(formula, formula.right)).toBe(true);
    expect([formula.left.from, formula.left.to]).toEqual([0, 18]);
  });
});

describe('formulas over many underlyings', () => {
  it('are worth in rows what each is worth alone', () => {
    const names = Object.keys(HELD);
    /** Rows whose values are those of the one held, scaled by their number. */
    const many = (rows: number) => (name: string, sessions: number) =>
      Float64Array.from(
        { length: rows * sessions },
        (_, i) => (1 + Math.floor(i / sessions)) * (series(name, sessions)[i % sessions] ?? NaN),
      );
    const alone = (row: number) => (name: string, sessions: number) =>
      series(name, sessions).map((one) => (1 + row) * one);
    const sources = [
      ...names.flatMap((name) => [name, `rank(${name}, 4)`, `z(${name}, 5)`, `change(${name}, 2)`, `sd(${name}, 3)`]),
      'iv30 / hv60.yz - 1',
      'if(rr25 < avg(rr25, 3), low(price, 4), high(price, 4) - price)',
      'pct(iv30 - hv60.yz, 4) > 50% and volume > 1.1 * avg(volume, 2)',
    ];
    for (const source of sources)
      for (const sessions of [1, 2]) {
        const rows = formulaSeries(check(source), sessions, many(3), 3);
        expect(rows, source).toHaveLength(3 * sessions);
        for (const row of [0, 1, 2])
          expect([...rows.subarray(row * sessions, (row + 1) * sessions)], source).toEqual([
            ...formulaSeries(check(source), sessions, alone(row)),
          ]);
      }
  });
  it('rank and percentile are those of the core, whatever is held', () => {
    const one = fc.oneof({ weight: 5, arbitrary: fc.integer({ min: -9, max: 9 }) }, fc.constantFrom(NaN, Infinity));
    fc.assert(
      fc.property(fc.array(one, { minLength: 2, maxLength: 12 }), (values) => {
        const of = (name: string) =>
          formulaSeries(check(`${name}(iv30, ${values.length})`), 1, () => Float64Array.from(values))[0]!;
        const found = rankOf(values, values.length);
        expect(of('rank')).toBe(found?.rank ?? NaN);
        expect(of('pct')).toBe(found?.percentile ?? NaN);
      }),
    );
  });
});
