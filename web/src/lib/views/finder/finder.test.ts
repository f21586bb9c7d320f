import { MEASURE_KEYS, type FinderMeasure, type FoundLeg, type FoundRow } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { conditionsOf, faultsOf, limitOf, limitsOn, paramsOf, templateOf, withLimits } from './asked';
import { fairLine } from './charts/scatter';
import { edgeSteps } from './edges';
import { KIND_PICTURES, stepOf, TOLD, written } from './measures';
import { PARAMS } from './params';
import { grouped, inHand, inOrder, keyOf, nameOf, nextOrder, rowsTable, strikesOf, structureAddress } from './rows';
import { SHIPPED_TEMPLATES } from './templates';
import { weaknessesOf, weakestSentence } from './weakest';
import { foundSentence } from './words';

const plain = (text: string) => text.replace(/\u2009/g, ' ');

const leg = (strike: number, side: 'call' | 'put', quantity: number, volume = 50): FoundLeg => ({
  ...{ expiry: '2031-05-15', settlement: 'pm', strike, side, quantity, mid: 1, vol: 0.3, openInterest: 400, volume },
});

function rowOf(
  given: Partial<Record<FinderMeasure, number>>,
  legs: readonly FoundLeg[] = [leg(90, 'put', -1)],
): FoundRow {
  const measures = { ...Object.fromEntries(MEASURE_KEYS.map((key) => [key, NaN])), ...given } as FoundRow['measures'];
  return {
    ...{ symbol: 'X', multiplier: 100, price: 96, kind: 'iron-condor', legs, measures, score: 80, shares: [80] },
    sketch: { prices: [80, 100], profits: [-1, 1], forward: 96, dots: [] },
    ...{ became: NaN, settled: NaN, ownVol: 0.24, independent: 40 },
  };
}

describe('conditions', () => {
  it('of a measure are its limits, all others are formulas', () => {
    expect(limitOf('touch <= 0.6')).toEqual({ measure: 'touch', end: 'most', value: 0.6 });
    expect(limitOf('touch < 0.6')).toBeNull();
    expect(limitOf('nothing >= 1')).toBeNull();
    const keep = ['touch <= 0.6', 'rank(iv30, 252) > 70%', 'days >= 20'];
    expect(limitsOn(keep, 'touch')).toEqual({ most: 0.6 });
    expect(conditionsOf(keep)).toEqual({
      limits: [
        { limit: { measure: 'touch', most: 0.6 }, at: 0 },
        { limit: { measure: 'days', least: 20 }, at: 2 },
      ],
      formulas: [{ source: 'rank(iv30, 252) > 70%', at: 1 }],
    });
    expect(withLimits(keep, 'touch', { least: 0.1, most: 0.5 })).toEqual([
      ...['rank(iv30, 252) > 70%', 'days >= 20', 'touch >= 0.1', 'touch <= 0.5'],
    ]);
    expect(withLimits(keep, 'days', {})).toEqual(keep.slice(0, 2));
  });
  it('that make no sense say where', () => {
    const faults = faultsOf(['touch <= 0.6', 'nothing > 1', 'rank(capital, 20) > 0']);
    expect([...faults.keys()]).toEqual([1, 2]);
    expect(faults.get(1)).toContain('at character 1: there is no measure');
  });
});

describe('templates', () => {
  it('of the application are whole: each makes sense, and comes back from the address as it was', () => {
    expect(SHIPPED_TEMPLATES).toHaveLength(6);
    for (const { name, asked } of SHIPPED_TEMPLATES) {
      expect(faultsOf(asked.limits ?? []).size, name).toBe(0);
      const params = { ...PARAMS.start, ...paramsOf(asked) };
      expect(paramsOf(templateOf(params)), name).toEqual(paramsOf(asked));
      for (const piece of PARAMS.pieces) {
        const text = piece.write(params, null);
        expect(Object.entries(piece.read(text, null)), `${name} ${piece.name}`).toEqual(
          Object.keys(piece.usual).map((key) => [key, params[key as keyof typeof params]]),
        );
      }
    }
  });
});

describe('rows', () => {
  const condor = [leg(77.5, 'put', 1), leg(85, 'put', -1), leg(107.5, 'call', -1), leg(115, 'call', 1)];
  it('are named, with strikes as people write them', () => {
    const row = rowOf({}, condor);
    expect(nameOf(row)).toBe('iron condor 15 May');
    expect(strikesOf(row)).toBe('77.5/85▽ 107.5/115△');
    expect(strikesOf(rowOf({}, [leg(80, 'put', 1), leg(90, 'put', -2), leg(105, 'put', 1)]))).toBe('80/2×90/105▽');
    expect(nameOf({ ...rowOf({}), kind: 'put' })).toBe('sold put 15 May');
    expect(keyOf(row)).not.toBe(keyOf(rowOf({}, condor.slice(1))));
  });
  it('are taken in hand with what is held in units', () => {
    const held = { underlying: true, quantity: 1, mid: 96, vol: NaN, openInterest: NaN, volume: NaN } as const;
    expect(inHand(rowOf({}, [leg(105, 'call', -1), held]))).toEqual({
      legs: [{ symbol: 'X', expiry: '2031-05-15', settlement: 'pm', strike: 105, side: 'call', quantity: -1 }],
      held: 100,
    });
  });
  it('go to Structure at the fill that they were found by', () => {
    expect(structureAddress('?symbol=X', 30, 0)).toBe('/structure?symbol=X&fill=30');
    expect(structureAddress('?symbol=X', 0, 1.5)).toBe('/structure?symbol=X&fee=1.5');
  });
  it('are ordered by a measure, those without it last, and by score again', () => {
    const [a, b, c] = [rowOf({ touch: 0.2 }), rowOf({}), rowOf({ touch: 0.7 })];
    expect(inOrder([a, b, c], 'touch')).toEqual([c, a, b]);
    expect(inOrder([a, b, c], 'touch|rising')).toEqual([a, c, b]);
    expect(inOrder([a, b, c], '')).toEqual([a, b, c]);
    expect(['', 'touch', 'touch|rising'].map((sort) => nextOrder(sort, 'touch'))).toEqual([
      'touch',
      'touch|rising',
      '',
    ]);
    expect(grouped([1, 2, 3], (one) => (one % 2 === 0 ? 'even' : 'odd'))).toEqual([
      ['odd', [1, 3]],
      ['even', [2]],
    ]);
  });
  it('go out as a table, in which what has no end is empty', () => {
    const { columns, rows } = rowsTable([rowOf({ maxProfit: Infinity, touch: 0.25 })], ['maxProfit', 'touch']);
    expect(columns.map(({ name }) => name)).toEqual([
      'score',
      'symbol',
      'structure',
      'strikes',
      'maxProfit',
      'touch',
      'weakest',
      'became',
    ]);
    expect(rows[0]!.slice(4, 6)).toEqual([null, 0.25]);
  });
});

describe('measures', () => {
  it('are each told by a name, and kinds by a picture', () => {
    for (const key of MEASURE_KEYS) expect(TOLD[key].label, key).toBeTruthy();
    for (const points of Object.values(KIND_PICTURES)) expect(points).toMatch(/^0,\d+ .*40,\d+$/);
    expect(plain(written('returnOnRisk', 0.333))).toBe('33 %');
    expect(plain(written('edges.past.ofRisk', -0.0071))).toBe('−0.7 %');
    expect(written('maxLoss', Infinity)).toBe('∞');
    expect(written('cost', -1.851)).toBe('−1.85');
  });
  it('are dragged in steps no coarser than what is typed', () => {
    expect(stepOf('returnOnRisk', 0, 9)).toBe(0.01);
    expect(stepOf('days', 7, 70)).toBe(1);
  });
});

describe('edges', () => {
  it('add up: each is the one before and what comes to it', () => {
    const row = rowOf({
      ...{ cost: -1.8, mid: -1.83, capital: 5 },
      ...{ 'edges.curve.money': -0.04, 'edges.curve.error': 0.02, 'edges.ownVol.money': 0.86 },
      ...{ 'edges.past.money': 1.48, 'edges.past.error': 0.64 },
    });
    const steps = edgeSteps(row);
    let sum = 0;
    for (const { amount, isSum } of steps) {
      if (isSum) expect(sum).toBeCloseTo(amount, 9);
      else sum += amount;
    }
    expect(steps.filter(({ isSum }) => isSum).map(({ amount }) => Math.round(amount))).toEqual([-4, 86, 148]);
    expect(steps.find(({ words }) => words.startsWith('fill'))!.amount).toBeCloseTo(-3, 9);
    expect(steps.at(-1)!.error).toBeCloseTo(64, 9);
    // Without a past and a vol of one's own there is the curve alone.
    expect(edgeSteps(rowOf({ cost: 1, mid: 1, 'edges.curve.money': 0.1 })).map(({ words }) => words)).toEqual([
      ...['mid under the curve', 'fill off the mid', 'edge to the curve'],
    ]);
  });
});

const fourLegs = [leg(77.5, 'put', 1), leg(85, 'put', -1), leg(107.5, 'call', -1), leg(115, 'call', 1)];

describe('words', () => {
  it('name the weakest point first', () => {
    const thin = rowOf({ 'edges.past.money': 1.48, 'edges.past.error': 0.64, cost: -1.8, mid: -1.83, capital: 5 }, [
      leg(77.5, 'put', 1, 2),
      leg(85, 'put', -1),
    ]);
    expect(weaknessesOf(thin)[0]!.short).toBe('2 lots a day');
    expect(plain(weakestSentence(thin))).toBe('The 77.5 put trades 2 lots a day.');
    const doubtful = rowOf({ 'edges.past.money': 0.5, 'edges.past.error': 0.9, cost: -1, mid: -1, capital: 5 });
    expect(plain(weakestSentence(doubtful))).toBe('±90 is the error of the past’s +50.');
  });
  it('say how many stay, which laws they pay against, and what luck would do', () => {
    const row = rowOf(
      {
        'edges.past.money': 1,
        'edges.past.ofRisk': 0.2,
        'edges.past.error': 0.5,
        'edges.curve.money': -0.1,
        'edges.curve.ofRisk': -0.02,
      },
      fourLegs,
    );
    const shown = {
      ...{ made: 31_223, within: 5808, leftOut: [], unknown: 0, dominated: 0, further: 5807, over: 0, quotesOut: 0 },
      ...{ skipped: [], bestOfNone: 4.1, rows: [row], histograms: {}, scatter: null },
    };
    const said = plain(foundSentence(shown, [row, row]));
    expect(said).toContain('5 808 of 31 223 stay within your limits');
    expect(said).toContain(
      'X iron condor 15 May leads: to the curve it costs 2.0 % of risk, moves as they were would give 20.0 %.',
    );
    expect(said).toContain('is 2.0 of its errors');
  });
});

describe('the line of fair odds', () => {
  it('is that at which gains and losses cancel', () => {
    const { x, y } = fairLine('probabilityOfProfit', 'returnOnRisk', [0.2, 0.8])!;
    x.forEach((p, i) => expect(p * y[i]! - (1 - p)).toBeCloseTo(0, 12));
    expect(fairLine('touch', 'returnOnRisk', [0, 1])).toBeNull();
  });
});
