import {
  calendarById,
  drawPaths,
  impliedColumns,
  instantOf,
  lognormalLaw,
  maxPain,
  payoffOfLegs,
  placeLegs,
  priceContract,
  writtenOn,
  type Sample,
  type StraddleUsed,
  type Side,
} from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { ASOF, makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { compareSide, futureOf, hedgeOf } from '$lib/data/odds';
import { choiceOf } from '$lib/data/pricing';
import { comingMoves } from './events';
import { zoneWords } from '$lib/formats';
import { humpsOf, namedLaws, presetLevels, zonesOf } from './laws';
import { splitsAfter } from '$lib/data/measures';
import { barsBetween, moveHistory, momentsOf, pricesOf, type KnownMoveRow } from './moves';
import { legValues, structureWork } from '$lib/structure';
import { expiryWork } from '$lib/working/expiry';
import { structureDifferences, structureViews } from './structure';
import { hedgeSentence, insideSentence, movesSentence, painSentence, standingWords, zonesSentence } from './words';
import { dayWork, eventWork, futureWork, hedgeWork, insideWork, painWork, stepWork, zoneWork } from './work';

const snapshot = makeSnapshot();
const shown = makeValued(snapshot);
const slice = snapshot.slices[1]!;
const { fit } = slice;
const on = writtenOn(snapshot, snapshot);
const volsOf = (at: number, side: Side) => {
  const one = snapshot.slices[at]!;
  return impliedColumns(one.strike, one[side], one.fit, side === 'call' ? 1 : -1, on);
};
const choice = (basis: Parameters<typeof choiceOf>[0], at = 1) => choiceOf(basis, shown.terms, at, undefined);

function bars(count: number) {
  const close = Float64Array.from({ length: count }, (_, i) => 100 * Math.exp(0.01 * Math.sin(i * 1.7) + 0.0003 * i));
  return { close, high: close.map((value) => value * 1.004), low: close.map((value) => value * 0.996) };
}

describe('laws by name', () => {
  const sample = drawPaths(bars(300), { sessions: 24, start: 0, sampling: 'stretches', drift: 'forward' })!;
  const laws = (found: Sample | null | undefined, ownVol = 0.2) =>
    namedLaws(['curve', 'own', 'level', 'realized', 'manual', 'past'], fit, choice, ownVol, found);
  it('are the curve, one vol each, and the past', () => {
    const byName = Object.fromEntries(laws(sample).map((one) => [one.name, one]));
    expect(Object.values(byName).every(({ law, missing }) => law && missing === '')).toBe(true);
    const level = lognormalLaw(fit.atmVol * Math.sqrt(fit.years));
    expect(byName['level']!.law!.under(-0.05)).toBe(level.under(-0.05));
    expect(byName['realized']!.vol).toBe(0.15);
    expect(byName['manual']!.vol).toBe(0.25);
    // The curve leans: more lies under a deviation, and it is no lognormal.
    expect(byName['curve']!.law!.under(-0.12)).toBeGreaterThan(level.under(-0.12));
    expect(byName['past']!.law!.under(0.5)).toBe(1);
  });
  it('say what is missing, and leave the rest', () => {
    const found = laws(null, NaN);
    const missing = Object.fromEntries(found.map((one) => [one.name, one.missing]));
    expect(missing['own']).toBe('the contract in focus has no vol of its own');
    expect(missing['past']).toContain('too few bars');
    expect(missing['level']).toBe('');
    expect(laws(undefined).at(-1)!.missing).toBe('being drawn');
    const without = { ...fit, curve: null, forward: -3 };
    const none = namedLaws(['curve', 'level'], without, choice, NaN, null);
    expect(none.map((one) => one.missing)).toEqual(Array(2).fill('the expiry has no forward over zero'));
    const over = namedLaws(['curve'], { ...fit, years: 0 }, choice, NaN, null);
    expect(over[0]!.missing).toBe('the expiry is over');
    const today = namedLaws(['past'], { ...fit, sessions: 0 }, choice, NaN, null);
    expect(today[0]!.missing).toContain('ends within the session');
  });
  it('have zones between levels of a preset, in words', () => {
    expect(presetLevels('deviation', { forward: 100, deviationMove: 8 }, 99, [], [])).toEqual([92, 108]);
    expect(presetLevels('deviations', { forward: 100, deviationMove: 60 }, 99, [], [])).toEqual([40, 160, 220]);
    expect(presetLevels('percent5', { forward: 100, deviationMove: 8 }, 200, [], [])).toEqual([190, 210]);
    expect(presetLevels('percent10', { forward: 100, deviationMove: 8 }, NaN, [], [])).toEqual([90, 110]);
    expect(presetLevels('typed', fit, 99, [3, 1], [])).toEqual([1, 3]);
    expect(presetLevels('spread', fit, 99, [], [104, NaN, 101])).toEqual([101, 104]);
    const zones = zonesOf(lognormalLaw(0.1), 100, [95, 105]);
    expect(zones.map((zone) => zoneWords(zone, 1))).toEqual(['under 95.0', '95.0 … 105.0', 'over 105.0']);
    expect(zoneWords({ from: null, to: null }, 0)).toBe('anywhere');
    expect(zonesOf(null, 100, [95])).toEqual([]);
  });
  it('have one hump, or two where a yes-or-no result lies ahead', () => {
    expect(humpsOf(lognormalLaw(0.1), 100, 0.1)).toEqual([expect.closeTo(100 * Math.exp(-0.005), 0)]);
    const [down, up] = [lognormalLaw(0.08), lognormalLaw(0.08)];
    const mixed = {
      under: (k: number) => 0.5 * down.under(k + 0.3) + 0.5 * up.under(k - 0.25),
      density: (k: number) => 0.5 * down.density(k + 0.3) + 0.5 * up.density(k - 0.25),
    };
    expect(humpsOf(mixed, 100, 0.3)).toHaveLength(2);
  });
});

describe('moves of the past', () => {
  const calendar = calendarById('MRX');
  const row = (day: string, expiry: string, sessions: number, price: number): KnownMoveRow => ({
    ...{ asof: `${day}T16:45:00Z`, day, price, expiry, settlement: 'pm', days: sessions * 1.4, sessions },
    ...{ forward: price, atmVol: 0.2, straddle: 4, deviation: 5, isAside: false },
  });
  const rows = [
    row('2031-02-28', '2031-03-07', 5, 200),
    row('2031-02-28', '2031-03-21', 15, 200),
    row('2031-03-07', '2031-03-14', 5, 101),
    { ...row('2031-03-07', '2031-03-21', 10, 101), isAside: true },
  ];
  const events = [{ date: '2031-03-03', start: null, title: 'Split', kind: 'dividend split', amount: 2 }];
  it('inside a session lie between its moments, where no bars are held', () => {
    const prices = [100, 102, 99].map((price, i) => ({ asof: `2031-03-13T10:${15 * i}:00Z`, price }));
    expect(barsBetween(prices)).toEqual([
      { time: prices[0]!.asof, open: 100, high: 102, low: 100, close: 102, volume: null },
      { time: prices[1]!.asof, open: 102, high: 102, low: 99, close: 99, volume: null },
    ]);
    expect(barsBetween(prices.slice(0, 1))).toEqual([]);
  });
  it('stand on the footing of today’s shares, without what is set aside', () => {
    const splits = splitsAfter(events, '2031-03-13');
    expect([splits('2031-02-28'), splits('2031-03-03')]).toEqual([2, 1]);
    // Seen from before it, a split has not happened.
    expect(splitsAfter(events, '2031-02-28')('2031-02-27')).toBe(1);
    const moments = momentsOf(rows, splits);
    expect(moments.map(({ price, expiries }) => [price, expiries.length])).toEqual([
      [100, 2],
      [101, 1],
    ]);
    expect(moments[0]!.expiries[0]).toMatchObject({ straddle: 2, deviation: 2.5 });
    const priceAt = pricesOf([{ date: '2031-02-28', asof: null, open: 190, close: 200 }], splits);
    expect([priceAt('2031-02-28', 'pm'), priceAt('2031-02-28', 'am'), priceAt('2031-03-01', 'pm')]).toEqual([
      100,
      95,
      NaN,
    ]);
  });
  it('are followed to what became of them', () => {
    const moments = momentsOf(rows, () => 1);
    const closes: Record<string, number> = { '2031-03-07': 203, '2031-03-14': 120 };
    const found = moveHistory(calendar, moments, 'week', 'straddle', (day) => closes[day] ?? NaN, {
      day: '2031-03-14',
      price: 120,
    });
    expect(found.count).toMatchObject({ complete: 2, inside: 1, over: 1 });
    expect(found.records).toHaveLength(2);
    expect(found.bySessions[0]).toEqual({ label: '1 to 5', count: 2, inside: 1 });
  });
});

describe('events ahead', () => {
  it('are what the expiries after carry over those before', () => {
    const calendar = calendarById('MRX');
    // A tenth of the price in the stretch to the second expiry, on top of 20 %.
    const at = (i: number) => snapshot.slices[i]!.fit;
    const variance = (i: number) => 0.04 * at(i).years + (i > 0 ? 0.01 : 0);
    const fits = snapshot.slices.map((one, i) => ({ ...one.fit, atmVol: Math.sqrt(variance(i) / at(i).years) }));
    const start = new Date(instantOf(calendar, '2031-04-02', '10:00')).toISOString();
    const events = [{ date: '2031-04-02', start, title: 'Results', kind: 'results', amount: null }];
    const [event] = comingMoves(events, [], calendar, ASOF, fits);
    expect(event).toMatchObject({ before: '2031-03-27', after: '2031-04-17', shared: 1, past: [] });
    expect(event!.move).toBeCloseTo(0.1, 6);
    expect(event!.ambientVol).toBeCloseTo(0.2, 6);
    const { lines } = eventWork(event!);
    expect(lines.at(-1)!.tex).toContain('= 0.1');
    expect(comingMoves([], [], calendar, ASOF, fits)).toEqual([]);
  });
});

describe('what the worker works out', () => {
  it('compares a side under every basis, as the chain has it', () => {
    const compared = compareSide(snapshot, volsOf(1, 'put'), 1, 'put', shown.terms, 'mid');
    expect(Array.from(compared.curve.itm)).toEqual(Array.from(shown.values[1]!.put.itm));
    expect(compared.level.vol[3]).toBe(fit.atmVol);
    expect(compared.own.theory[5]).toBeCloseTo(0.5 * (slice.put.bid[5]! + slice.put.ask[5]!), 9);
  });
  it('follows a contract to its expiry, where its odds are those of the curve', () => {
    const request = {
      ...{ slice: 1, index: 7, side: 'call' as const, basis: 'curve' as const },
      closes: [
        { years: 1 / 365, sessions: 1 },
        { years: 0.03, sessions: 7 },
        { years: fit.years, sessions: fit.sessions },
      ],
      shares: [0.5, 0.1, -0.1, -0.5],
    };
    const found = futureOf(snapshot, volsOf(1, 'call'), request, shown.terms, 'mid')!;
    expect(found.rows).toHaveLength(3);
    const mid = 0.5 * (slice.call.bid[7]! + slice.call.ask[7]!);
    // At expiry up a tenth means ending over the strike and what it then is worth.
    const last = found.rows[2]![1]!;
    expect(last.price).toBeCloseTo(slice.strike[7]! + 1.1 * mid, 9);
    expect(last.odds).toBeLessThan(shown.values[1]!.call.breakEven[7]!);
    expect(found.now).toBeCloseTo(shown.values[1]!.call.theory[7]!, 6);
    expect(found.tomorrow).toBeCloseTo(found.now + shown.values[1]!.call.theta[7]!, 2);
    expect(found.move).toBeGreaterThan(0);
    expect(found.recovery).toBeGreaterThan(0.3);
    expect(
      futureOf(snapshot, volsOf(1, 'call'), { ...request, basis: 'index' }, { ...shown.terms, indexVol: NaN }, 'mid'),
    ).toBeNull();
    const past = {
      ...shown.terms,
      past: { bars: bars(300), sampling: 'stretches' as const, drift: 'forward' as const },
    };
    const drawn = futureOf(snapshot, volsOf(1, 'call'), { ...request, basis: 'realized' }, past, 'mid')!;
    expect(drawn.rows[2]!.every(({ odds }) => odds >= 0 && odds <= 1)).toBe(true);
  });
  it('hedges a sold straddle by price', () => {
    const sides = { call: volsOf(1, 'call'), put: volsOf(1, 'put') };
    const hedge = hedgeOf(snapshot, sides, 1, 6, 'level', shown.terms, 'mid', [80, 100, 120])!;
    expect(hedge.points.map(({ hedge: held }) => Math.sign(held))).toEqual([-1, 1, 1]);
    expect(hedgeOf(snapshot, sides, 1, 6, 'index', { ...shown.terms, indexVol: NaN }, 'mid', [100])).toBeNull();
  });
});

describe('a structure under every basis', () => {
  const leg = (quantity: number, strike: number, side: Side = 'call') => ({
    ...{ symbol: snapshot.symbol, expiry: slice.expiry, settlement: slice.settlement, strike, side, quantity },
  });
  const legs = placeLegs(snapshot, [leg(1, 100), leg(-1, 106)])!;
  const sides = legs.map(({ slice: at, side }) =>
    compareSide(snapshot, volsOf(at, side), at, side, shown.terms, 'mid'),
  );
  it('is worth what its legs are, and gains with odds of two cumulative normals on the level', () => {
    const views = structureViews(snapshot, legs, sides, choice);
    const level = views.find(({ basis }) => basis === 'level')!;
    expect(level.priced.value).toBeCloseTo(sides[0]!.level.theory[6]! - sides[1]!.level.theory[9]!, 12);
    const [even] = payoffOfLegs(snapshot, legs)!.breakEvens;
    const { itm } = priceContract({
      ...{ model: 'black-76', side: 'call', forward: fit.forward, strike: even!, years: fit.years, rate: fit.rate },
      vol: fit.atmVol,
    });
    expect(level.odds.gain).toBeCloseTo(itm, 9);
    const curve = views.find(({ basis }) => basis === 'curve')!;
    const found = structureDifferences(snapshot, legs, shown.terms);
    const by = Object.fromEntries(found.map((one) => [one.cause, one]));
    expect(by['slope']!.with).toBeCloseTo(curve.odds.gain, 9);
    expect(by['skew']!.without).toBeCloseTo(level.odds.gain, 9);
  });
  it('shows how it comes about, leg by leg', () => {
    const views = structureViews(snapshot, legs, sides, choice);
    const [view] = views;
    const given = {
      ...view!,
      snapshot,
      legs,
      values: sides.map((side, i) => legValues(side[view!.basis], legs[i]!.index)),
    };
    const work = structureWork({ ...given, payoff: payoffOfLegs(snapshot, legs) }, 'touch');
    const line = (key: string) => work.lines.find((one) => one.key === key)!.tex;
    const ending = (tex: string) => Number(/(-?[\d.]+)$/.exec(tex)![1]);
    expect(ending(line('value'))).toBeCloseTo(view!.priced.value, 6);
    expect(ending(line('worst'))).toBeCloseTo(view!.priced.worst, 6);
    expect(ending(line('edge'))).toBeCloseTo(view!.edge, 5);
    expect(ending(line('touch'))).toBeCloseTo(view!.odds.touch, 6);
    expect(ending(line('move'))).toBeCloseTo(view!.move, 5);
    expect(work.at).toBe('touch');
  });
  it('has no odds where its legs expire apart, and is not there where one is not listed', () => {
    const apart = placeLegs(snapshot, [leg(1, 100), { ...leg(-1, 100), expiry: snapshot.slices[0]!.expiry }])!;
    expect(payoffOfLegs(snapshot, apart)).toBeNull();
    expect(structureDifferences(snapshot, apart, shown.terms)).toEqual([]);
    expect(placeLegs(snapshot, [leg(1, 101)])).toBeNull();
  });
});

const whole = ({ lead, rest }: { lead: string; rest: string }) => `${lead} ${rest}`;

describe('in words', () => {
  it('how often moves stayed inside, and whether that is more than chance', () => {
    const count = { complete: 50, inside: 45, over: 3, under: 2, fair: 0.58 };
    expect(whole(insideSentence(count, 'week', 'straddle', undefined))).toBe(
      '45 of 50 weeks stayed inside (90 %; a fair straddle gives 58 % ± 14: the moves were dear), 3 went over and 2 under.',
    );
    const open = { times: 1.34, left: 2 } as Parameters<typeof insideSentence>[3];
    expect(standingWords(open!)).toBe('1.3 expected moves up, 2 sessions left');
    expect(whole(insideSentence({ ...count, complete: 0 }, 'day', 'deviation', open))).toBe(
      'No day is over yet that an expected move is held of. Today stands at 1.3 expected moves up, 2 sessions left.',
    );
    expect(insideSentence({ ...count, inside: 20, over: 30 }, 'expiry', 'deviation', undefined).rest).toContain(
      'cheap',
    );
    expect(insideSentence({ ...count, inside: 30 }, 'week', 'straddle', undefined).rest).toContain('as chance has it');
  });
  it('what straddles say, with a zero-day and an announcement', () => {
    const row = (ratio: number, isZeroDay = false) => ({
      ...{ expiry: '2031-03-13', settlement: 'pm' as const },
      ratio,
      straddle: 1,
      isZeroDay,
      minutes: 15,
    });
    const event = { title: 'Results', day: '2031-03-21', move: 0.05 };
    expect(whole(movesSentence([row(0.79), row(0.85, true)], event))).toBe(
      'The straddle is between 0.79 and 0.85 of a deviation (common practice says 0.8, without skew it is 0.798). 13 Mar ends today: 15 minutes are counted. Results on 21 Mar carries 5.00 % by itself.',
    );
    expect(movesSentence([row(NaN)], null).lead).toBe('No straddle is quoted on both sides.');
  });
  it('which zone laws differ most about, and two humps', () => {
    const zones = [
      {
        words: 'under 95',
        odds: [
          { name: 'curve', odds: 0.2 },
          { name: 'level', odds: 0.1 },
        ],
      },
      {
        words: 'over 95',
        odds: [
          { name: 'curve', odds: 0.8 },
          { name: 'level', odds: 0.85 },
        ],
      },
    ];
    expect(whole(zonesSentence(zones, fit, [90, 110], 0))).toBe(
      '17 Apr: the laws differ most about under 95, 10.0 % by level and 20.0 % by curve. The curve has two humps, at 90 and 110.',
    );
    const same = [
      {
        words: 'under 95',
        odds: [
          { name: 'curve', odds: 0.2 },
          { name: 'level', odds: 0.2004 },
        ],
      },
    ];
    expect(zonesSentence(same, fit, [90], 0).rest).toBe('the laws agree about these zones.');
    expect(zonesSentence([], fit, [90], 0).rest).toBe('there is one law only to go by.');
  });
  it('where open contracts are worth least, as a theory; what a sold straddle has to do', () => {
    expect(
      whole(
        painSentence(4200, 4284, [
          { strike: 4250, price: 4300 },
          { strike: 4200, price: 4284 },
        ]),
      ),
    ).toBe(
      'Open contracts are worth least at 4\u2009200, 2.0 % under the price. The price is no nearer than 1 session ago. That prices are drawn there is a theory, and a disputed one.',
    );
    const hedge = hedgeSentence(
      (price) => (price - 100) / 20,
      { price: 100, low: 90, high: 110 },
      { price: 99, from: 95, to: 104 },
      1,
    );
    expect(whole(hedge)).toContain('sells 0.50 on the way to the lower level, buys 0.50 to the upper one');
  });
  it('workings end with their number', () => {
    const parts = [{ strike: 100, callMid: 5, putMid: 4.1, vol: 0.2, weight: 1 }];
    const straddleLine = (straddle: StraddleUsed | null) =>
      expiryWork(fit, straddle).lines.find(({ key }) => key === 'straddle')!;
    expect(straddleLine({ choice: 'bracket', move: 9.1, vol: NaN, parts }).tex).toMatch(/= 9.1$/);
    expect(straddleLine({ choice: 'forward', move: 9.2, vol: 0.2, parts }).tex).toMatch(/= 9.2$/);
    expect(straddleLine(null).words).toContain('no quote');
    const [used] = namedLaws(['level'], fit, choice, NaN, null);
    const [zone] = zonesOf(used!.law, fit.forward, [95]);
    const work = zoneWork(zone!, fit, used!, [{ name: 'curve', odds: 0.3 }], 2);
    expect(Number(/([\d.]+)$/.exec(work.lines.at(-1)!.tex)![1])).toBeCloseTo(zone!.probability, 6);
    const future = futureWork(
      { day: '2031-03-14', years: 0.003 },
      -0.2,
      5,
      { odds: 0.25, price: 98 },
      {
        ...{ symbol: 'X', expiry: '2031-04-17', settlement: 'pm', strike: 100, side: 'put', basis: 'curve' },
      },
    );
    expect(future.title).toBe('17 Apr 100 put down 20 % by 14 Mar');
    expect(future.lines.at(-1)!.words).toContain('over it');
    const step = {
      from: '2031-02-28',
      to: '2031-03-07',
      ...{ expiry: '2031-03-07', settlement: 'pm' as const },
      price: 100,
      move: 4,
      close: 106,
      times: 1.5,
    };
    const became = stepWork({ ...step, left: 0, outcome: 'over' }, 'straddle');
    expect(became.lines.at(-1)!.tex).toMatch(/= 1.5$/);
    const open = [90, 100, 110].map((strike) => ({ strike, callOpenInterest: 5, putOpenInterest: 7 }));
    expect(painWork(open, maxPain(open, 10), 10).lines.at(-1)!.tex).toBe('1200');
    const point = { price: 101, delta: -0.2, gamma: -0.05, value: 6, hedge: 0.2 };
    expect(hedgeWork(100, point, 'curve').lines[2]!.tex).toBe('0.2');
    expect(hedgeWork(100, point, 'curve', 0.1).lines.at(-1)!.tex).toBe('0.2 - 0.1 = 0.1');
    expect(insideWork({ label: '1 to 5', count: 8, inside: 6 }, 'deviation', 0.6827).lines.at(-1)!.tex).toBe('0.0673');
    const day = dayWork(
      { now: 5, tomorrow: 4.9, recovery: 0.4, move: 0.25 },
      { day: '2031-03-14', years: 0.003 },
      { theta: -0.1, delta: 0.5, mid: 5.1 },
      { symbol: 'X', expiry: '2031-04-17', settlement: 'pm', strike: 100, side: 'call', basis: 'curve' },
    );
    expect(day.lines[2]!.tex).toContain('x = 0.25,\\quad -\\Theta/\\Delta = 0.2');
  });
});
