import { describe, expect, it } from 'vitest';
import { countedLaw, drawPaths, sampleExit, sampleTouch, shareUnder, walkPaths, type PastBars } from '.';

/** A walk of independent normal steps with a drift, with highs and lows a little beyond the closes. */
function walk(count: number, deviation: number, drift = 0): PastBars {
  let state = 99;
  const uniform = () => (state = (state * 1_103_515_245 + 12_345) % 2_147_483_648) / 2_147_483_648;
  const normal = () => Math.sqrt(-2 * Math.log(uniform() || 1e-9)) * Math.cos(2 * Math.PI * uniform());
  const close = new Float64Array(count);
  let at = Math.log(100);
  for (let i = 0; i < count; i++) {
    close[i] = Math.exp(at);
    at += drift + deviation * normal();
  }
  const before = (i: number) => close[Math.max(0, i - 1)]!;
  return {
    close,
    high: close.map((value, i) => 1.001 * Math.max(value, before(i))),
    low: close.map((value, i) => 0.999 * Math.min(value, before(i))),
  };
}

const bars = walk(600, 0.01, 0.001);
const usual = { sessions: 10, start: 0, sampling: 'stretches', drift: 'forward' } as const;
const mean = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0) / values.length;

describe('past stretches', () => {
  it('are every move of the length once, and say how few of them do not overlap', () => {
    const sample = drawPaths(bars, { ...usual, drift: 'kept' })!;
    const moves = Array.from({ length: 590 }, (_, i) => Math.log(bars.close[i + 10]! / bars.close[i]!));
    expect(sample.ends).toHaveLength(590);
    expect(Array.from(sample.ends)).toEqual(moves.sort((a, b) => a - b).map((move) => expect.closeTo(move, 12)));
    expect(sample.independent).toBe(59);
  });
  it('lead to the forward on average, or nowhere, wherever they began', () => {
    const toForward = drawPaths(bars, { ...usual, start: -0.02 })!;
    expect(mean(toForward.ends.map(Math.exp))).toBeCloseTo(1, 12);
    const nowhere = drawPaths(bars, { ...usual, start: -0.02, drift: 'none' })!;
    expect(mean(nowhere.ends)).toBeCloseTo(-0.02, 12);
    // The drift of the past is a tenth of a deviation a session.
    expect(mean(drawPaths(bars, { ...usual, drift: 'kept' })!.ends)).toBeGreaterThan(0.003);
  });
  it('go as far as their highs and lows, and touch what is between', () => {
    const sample = drawPaths(bars, usual)!;
    for (let i = 0; i < sample.ends.length; i++) {
      expect(sample.highs[i]!).toBeGreaterThanOrEqual(Math.max(0, sample.ends[i]!) - 1e-12);
      expect(sample.lows[i]!).toBeLessThanOrEqual(Math.min(0, sample.ends[i]!) + 1e-12);
    }
    expect(sampleTouch(sample, 0, 0)).toBe(1);
    expect(sampleTouch(sample, 5, 0)).toBe(0);
    for (const k of [-0.04, -0.01, 0.01, 0.04]) {
      const ended = k > 0 ? 1 - shareUnder(sample.ends, k) : shareUnder(sample.ends, k);
      expect(sampleTouch(sample, k, 0)).toBeGreaterThanOrEqual(ended);
    }
  });
});

describe('paths of blocks', () => {
  const drawn = drawPaths(bars, { ...usual, sampling: 'blocks', paths: 40_000 })!;
  it('have the variance of their sessions, and the same law again with the same seed', () => {
    const moves = Float64Array.from({ length: 599 }, (_, i) => Math.log(bars.close[i + 1]! / bars.close[i]!));
    // Blocks of a circle: the variance of a path is that of the sums of five, twice.
    const sums = Float64Array.from({ length: 599 }, (_, i) =>
      [0, 1, 2, 3, 4].reduce((sum, j) => sum + moves[(i + j) % 599]!, 0),
    );
    const variance = (values: Float64Array) => {
      const middle = mean(values);
      return mean(values.map((value) => (value - middle) ** 2));
    };
    expect(variance(drawn.ends) / (2 * variance(sums))).toBeCloseTo(1, 1);
    expect(mean(drawn.ends.map(Math.exp))).toBeCloseTo(1, 12);
    expect(drawPaths(bars, { ...usual, sampling: 'blocks', paths: 40_000 })!.ends).toEqual(drawn.ends);
    expect(drawPaths(bars, { ...usual, sampling: 'blocks', paths: 40_000, seed: 7 })!.ends).not.toEqual(drawn.ends);
  });
  it('of a session each are drawn for any length, also one that is no multiple of a block', () => {
    for (const sessions of [1, 4, 7, 63]) {
      const sample = drawPaths(bars, { ...usual, sampling: 'blocks', sessions, paths: 20_000 })!;
      const spread = Math.sqrt(mean(sample.ends.map((end) => end * end)));
      expect(spread / (0.01 * Math.sqrt(sessions))).toBeGreaterThan(0.8);
      expect(spread / (0.01 * Math.sqrt(sessions))).toBeLessThan(1.2);
    }
  });
  it('of independent steps touch a level about twice as often as they end beyond it', () => {
    // Reflection principle, for a walk whose highs are at its closes.
    const plain = { close: bars.close, high: bars.close, low: bars.close };
    const sample = drawPaths(plain, { ...usual, sessions: 100, sampling: 'blocks', drift: 'none' })!;
    const ended = 1 - shareUnder(sample.ends, 0.1);
    expect(sampleTouch(sample, 0.1, 0) / ended).toBeGreaterThan(1.7);
    expect(sampleTouch(sample, 0.1, 0) / ended).toBeLessThan(2.05);
  });
});

describe('paths on the way', () => {
  it('of stretches are at every length those that would be drawn of it', () => {
    for (const drift of ['forward', 'none', 'kept'] as const) {
      const walk = walkPaths(bars, { sampling: 'stretches', drift });
      for (const sessions of [10, 3, 21]) {
        const drawn = drawPaths(bars, { ...usual, drift, sessions, start: -0.01 })!;
        const ends = walk(sessions, -0.01)!.sort();
        expect(Math.max(...ends.map((end, i) => Math.abs(end - drawn.ends[i]!)))).toBeLessThan(1e-12);
      }
    }
  });
  it('of blocks walk on: each length has the law that it is drawn with, and the same again when it is asked for later', () => {
    const given = { sampling: 'blocks', drift: 'forward', paths: 40_000 } as const;
    const walk = walkPaths(bars, given);
    const first = walk(7, 0)!;
    for (const sessions of [7, 12, 23]) {
      const drawn = drawPaths(bars, { ...usual, ...given, sessions })!;
      const law = countedLaw(walk(sessions, 0)!);
      // Kolmogorov and Smirnov: two samples of 40 000 differ by 0.0115 in one of a hundred.
      const apart = [-0.06, -0.03, -0.01, 0, 0.01, 0.03, 0.06].map((k) => law.under(k) - shareUnder(drawn.ends, k));
      expect(Math.max(...apart.map(Math.abs))).toBeLessThan(0.0115);
      expect(mean(walk(sessions, 0)!.map(Math.exp))).toBeCloseTo(1, 12);
    }
    expect(walk(7, 0)).toEqual(first);
    // A longer path begins as a shorter one.
    expect(walk(8, 0)!.every((end, i) => Math.abs(end - first[i]!) < 0.05)).toBe(true);
  });
  it('are none where none can be drawn', () => {
    expect(walkPaths(bars, { sampling: 'blocks', drift: 'none' })(0, 0)).toBeNull();
    expect(walkPaths(bars, { sampling: 'stretches', drift: 'none' })(581, 0)).toBeNull();
    expect(
      walkPaths({ ...bars, close: bars.close.with(3, NaN) }, { sampling: 'blocks', drift: 'none' })(5, 0),
    ).toBeNull();
  });
});

describe('either of two levels', () => {
  const sample = drawPaths(bars, { ...usual, sampling: 'blocks', paths: 20_000 })!;
  it('is reached by no fewer paths than one of them, by no more than both, and by one alone where the other is none', () => {
    for (const [low, high] of [
      [-0.02, 0.03],
      [-0.05, 0.01],
    ] as const) {
      const [down, up] = [sampleTouch(sample, low, 0), sampleTouch(sample, high, 0)];
      const either = sampleExit(sample, [low, high], 0);
      expect(either).toBeGreaterThanOrEqual(Math.max(down, up));
      expect(either).toBeLessThanOrEqual(Math.min(1, down + up));
      expect(sampleExit(sample, [-Infinity, high], 0)).toBeCloseTo(up, 12);
      expect(sampleExit(sample, [low, Infinity], 0)).toBeCloseTo(down, 12);
    }
    expect(sampleExit(sample, [0, 0.1], 0)).toBe(1);
  });
});

describe('what cannot be drawn', () => {
  it('is a path without a session, or longer than what is held, or over missing bars', () => {
    expect(drawPaths(bars, { ...usual, sessions: 0 })).toBeNull();
    expect(drawPaths(bars, { ...usual, sessions: 581 })).toBeNull();
    expect(drawPaths(bars, { ...usual, sessions: 580 })!.ends).toHaveLength(20);
    const broken = { ...bars, low: bars.low.with(9, NaN) };
    expect(drawPaths(broken, usual)).toBeNull();
  });
});
