import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import type { Measure } from '../formula';
import { makeRandom } from '../odds';
import {
  bestOfNone,
  candidateFormula,
  choose,
  columnOf,
  findCandidates,
  histogramOf,
  isContradicted,
  Ranker,
  ranksOf,
  sharesOf,
  withinFormula,
  withinLimit,
  type FinderMeasure,
  type Pool,
  type Weight,
} from '.';
import { askedOf, testWorld } from './testing';

const poolOf = (columns: Partial<Record<FinderMeasure, readonly number[]>>): Pool => {
  const count = Object.values(columns)[0]!.length;
  return { count, column: (key) => Float64Array.from(columns[key] ?? new Array<number>(count).fill(0)) };
};

describe('ranks', () => {
  it('are the share that is less, with half of those that are the same', () => {
    expect([...ranksOf(Float64Array.of(3, 1, 2, 2, NaN))]).toEqual([3.5 / 4, 0.5 / 4, 0.5, 0.5, NaN]);
    expect([...ranksOf(Float64Array.of(Infinity, 1))]).toEqual([0.75, 0.25]);
  });

  it('keep the order of values, and have a half as their mean', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -5, max: 5 }), { minLength: 1, maxLength: 60 }), (values) => {
        const ranks = ranksOf(Float64Array.from(values));
        expect(ranks.reduce((sum, rank) => sum + rank, 0) / values.length).toBeCloseTo(0.5, 12);
        values.forEach((a, i) =>
          values.forEach((b, j) => expect(Math.sign(ranks[i]! - ranks[j]!)).toBe(Math.sign(a - b))),
        );
      }),
    );
  });

  it('make scores by weights, of which negative ones prefer low', () => {
    const pool = poolOf({ returnOnRisk: [0.1, 0.3, 0.2], touch: [0.5, 0.9, 0.1] });
    const weights: Weight[] = [
      { measure: 'returnOnRisk', weight: 3 },
      { measure: 'touch', weight: -1 },
    ];
    const ranking = new Ranker(pool).rank(weights);
    // Ranks of returns are 1/6, 5/6, 3/6; of low touches 3/6, 1/6, 5/6.
    const scores = [(3 * (1 / 6) + 1 * 0.5) / 4, (3 * (5 / 6) + 1 / 6) / 4, (3 * 0.5 + 5 / 6) / 4];
    ranking.score.forEach((score, i) => expect(score).toBeCloseTo(100 * scores[i]!, 12));
    expect([...ranking.order]).toEqual([1, 2, 0]);
    const shares = sharesOf(ranking, weights, 1);
    expect(shares[0]! + shares[1]!).toBeCloseTo(ranking.score[1]!, 12);
  });

  it('are none of what is not known, and ties go by the return on risk', () => {
    const pool = poolOf({ returnOnRisk: [0.1, 0.3, 0.2], touch: [0.5, 0.5, NaN] });
    const { order, unknown } = new Ranker(pool).rank([{ measure: 'touch', weight: 1 }]);
    expect([...order]).toEqual([1, 0]);
    expect(unknown).toEqual([1]);
  });
});

describe('what is kept', () => {
  const random = makeRandom(9);
  const count = 400;
  const values = () => Array.from({ length: count }, () => Math.round(20 * random()) / 20);
  const columns = { returnOnRisk: values(), touch: values(), probabilityOfProfit: values() };
  const pool = poolOf(columns);
  const weights: Weight[] = [
    { measure: 'returnOnRisk', weight: 2 },
    { measure: 'touch', weight: -1 },
    { measure: 'probabilityOfProfit', weight: 1 },
  ];
  const ranking = new Ranker(pool).rank(weights);

  it('is within all limits; each says what it leaves out alone', () => {
    const limits = [
      withinLimit(pool.column('returnOnRisk'), { least: 0.5 }),
      withinLimit(pool.column('touch'), { most: 0.4 }),
    ];
    const chosen = choose(ranking, weights, { limits, isUndominated: false, most: 1e9 });
    const plain = Array.from({ length: count }, (_, i) => i).filter(
      (i) => columns.returnOnRisk[i]! >= 0.5 && columns.touch[i]! <= 0.4,
    );
    expect([...chosen.rows].sort((a, b) => a - b)).toEqual(plain);
    expect(chosen.within).toBe(plain.length);
    expect(chosen.leftOut).toEqual([
      columns.returnOnRisk.filter((value) => value < 0.5).length,
      columns.touch.filter((value) => value > 0.4).length,
    ]);
    expect(isContradicted({ measure: 'touch', least: 2, most: 1 })).toBe(true);
  });

  it('has no other that is better in all weighted measures', () => {
    const { rows, dominated, within } = choose(ranking, weights, { limits: [], isUndominated: true, most: 1e9 });
    const isBetter = (a: number, b: number) => {
      const gaps = [
        columns.returnOnRisk[a]! - columns.returnOnRisk[b]!,
        columns.touch[b]! - columns.touch[a]!,
        columns.probabilityOfProfit[a]! - columns.probabilityOfProfit[b]!,
      ];
      return gaps.every((gap) => gap >= 0) && gaps.some((gap) => gap > 0);
    };
    const all = Array.from({ length: count }, (_, i) => i);
    const plain = all.filter((i) => !all.some((j) => isBetter(j, i)));
    expect([...rows].sort((a, b) => a - b)).toEqual(plain);
    expect(dominated).toBe(within - plain.length);
  });

  it('has the best of each group, in falling order', () => {
    const groups = { of: Int32Array.from({ length: count }, (_, at) => at % 7), count: 7 };
    const { rows, further } = choose(ranking, weights, {
      limits: [],
      each: 2,
      groups,
      isUndominated: false,
      most: 1e9,
    });
    expect(rows).toHaveLength(14);
    expect(further).toBe(count - 14);
    for (let group = 0; group < 7; group++) {
      const best = [...ranking.order].filter((at) => at % 7 === group).slice(0, 2);
      expect([...rows].filter((at) => at % 7 === group)).toEqual(best);
    }
  });
});

describe('conditions on candidates', () => {
  const lookup = (name: string): Measure | null =>
    name === 'iv30' || name === 'price'
      ? { name, unit: name === 'price' ? { price: 1 } : { vol: 1 }, title: name }
      : null;
  const pool = poolOf({ capital: [1, 2, 4], 'edges.past.money': [0.2, 0.1, NaN] });

  it('read measures of candidates, and ask the underlying for the rest', () => {
    const formula = candidateFormula('rank(iv30, 252) > 70% and edge.past > 0.1 * capital', lookup);
    expect(formula.outside).toEqual(['rank(iv30, 252)']);
    const within = (rank: number) => [...withinFormula(formula, pool, () => new Float64Array(3).fill(rank))];
    expect(within(0.8)).toEqual([1, 0, 0]);
    expect(within(0.6)).toEqual([0, 0, 0]);
    expect(candidateFormula('edges.past.ofRisk > 5%', lookup).outside).toEqual([]);
    expect(candidateFormula('capital < (price - 1) * 2', lookup).outside).toEqual(['(price - 1) * 2']);
  });

  it('that make no sense are refused where they do not', () => {
    expect(() => candidateFormula('edge.past', lookup)).toThrow('a condition is wanted');
    expect(() => candidateFormula('rank(capital, 20) > 0.5', lookup)).toThrow('no sessions to look back');
    expect(() => candidateFormula('capital > iv30', lookup)).toThrow('cannot be held against');
    expect(() => candidateFormula('nothing > 1', lookup)).toThrow('no measure');
  });
});

describe('what stands beside the rows', () => {
  it('says what the best of so many shows without an edge', () => {
    // Expected largest of normal variables: 1.5388 of ten, 2.5076 of a hundred (H. Harter, "Expected values of normal order
    // statistics", 1961; from memory). Blom's approximation is within a hundredth.
    expect(bestOfNone(10)).toBeCloseTo(1.5388, 1);
    expect(Math.abs(bestOfNone(10) - 1.5388)).toBeLessThan(0.01);
    expect(Math.abs(bestOfNone(100) - 2.5076)).toBeLessThan(0.01);
    expect(bestOfNone(1)).toBe(0);
  });

  it('counts every value once in a histogram', () => {
    const values = Float64Array.from({ length: 1000 }, (_, i) => (i % 10 === 0 ? NaN : i));
    const found = histogramOf(values, 12)!;
    expect(found.counts.reduce((sum, count) => sum + count, 0)).toBe(900);
    expect(found.unknown).toBe(100);
    expect(histogramOf(Float64Array.of(NaN), 12)).toBeNull();
  });

  it('takes no candidate whose measure is not known', () => {
    const { table } = findCandidates({ ...testWorld(), past: () => null }, askedOf(['iron-condor']));
    const pool = { count: table.count, column: (key: FinderMeasure) => columnOf(table, key) };
    const ranking = new Ranker(pool).rank([{ measure: 'edges.past.ofRisk', weight: 1 }]);
    expect(ranking.order).toHaveLength(0);
    expect(ranking.unknown).toEqual([table.count]);
  });
});
