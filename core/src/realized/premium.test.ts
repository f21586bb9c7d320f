import { describe, expect, it } from 'vitest';
import {
  CONE_SHARES,
  coneSlice,
  eventStudies,
  overlapFactor,
  premiumByRegime,
  premiumOf,
  premiumSessions,
  realizedAfter,
  regimeOf,
  rankOf,
  zScoreOf,
  type StudyMoment,
} from '.';
import { gaussians } from './testing';

const column = (...values: number[]) => Float64Array.from(values);

describe('where a value stands', () => {
  it('the textbook case: low 12, high 52, now 32 is rank 50', () => {
    expect(rankOf([20, 12, 52, 32])!.rank).toBe(0.5);
  });
  it('z-score by hand, gaps passed over, over its lookback only', () => {
    expect(zScoreOf([1, 2, 3])).toBeCloseTo(1, 14);
    expect(zScoreOf([99, 1, NaN, 2, 3], 4)).toBeCloseTo(1, 14);
    expect([zScoreOf([5]), zScoreOf([5, 5]), zScoreOf([5, NaN]), zScoreOf([])]).toEqual([NaN, NaN, NaN, NaN]);
  });
});

describe('the cone', () => {
  it('makes good what overlapping hides, to the last digit: the variance of overlapping sums by their covariances', () => {
    for (const [window, count] of [
      [1, 12],
      [5, 20],
      [21, 21],
      [20, 400],
    ] as const) {
      // Sums of `window` independent numbers of variance one share window − |i − j| of them.
      let shared = 0;
      for (let i = 0; i < count; i++) for (let j = 0; j < count; j++) shared += Math.max(0, window - Math.abs(i - j));
      const seen = window - shared / count ** 2;
      expect(overlapFactor(window, count) * seen).toBeCloseTo(window, 9);
    }
    expect(overlapFactor(1, 10)).toBeCloseTo(10 / 9, 12);
    expect(overlapFactor(20, 19)).toBeNaN();
  });
  it('quantiles of what is held, wider once corrected, with how many windows are independent', () => {
    const vols = [NaN, 0.1, 0.2, 0.3, 0.4, 0.5];
    const slice = coneSlice(vols, 2);
    expect(slice.quantiles[0]).toBe(0.1);
    expect(slice.quantiles[CONE_SHARES.indexOf(0.5)]).toBe(0.3);
    expect(slice.quantiles.at(-1)).toBe(0.5);
    expect([slice.now, slice.count, slice.independent]).toEqual([0.5, 5, 3]);
    const widen = Math.sqrt(overlapFactor(2, 5));
    expect(slice.corrected.at(-1)).toBeCloseTo(0.3 + 0.2 * widen, 12);
    expect(slice.corrected[CONE_SHARES.indexOf(0.5)]).toBeCloseTo(0.3, 12);
    // Nothing lies under no vol at all.
    expect(coneSlice([0, 0.01, 1], 3).corrected[0]).toBe(0);
    expect(coneSlice([], 10)).toMatchObject({ mean: NaN, now: NaN, count: 0 });
  });
});

describe('implied against realized', () => {
  it('realized afterwards, by hand: the returns after the session', () => {
    const close = column(100, 110, 99, 99);
    const after = realizedAfter(close, 2, 1);
    expect(after[0]).toBeCloseTo(Math.sqrt((Math.log(1.1) ** 2 + Math.log(0.9) ** 2) / 2), 14);
    expect(after[1]).toBeCloseTo(Math.sqrt(Math.log(0.9) ** 2 / 2), 14);
    expect([after[2], after[3]]).toEqual([NaN, NaN]);
  });
  it('premium, median, ratio and share, by hand, and by regime of rank', () => {
    const session = (implied: number, after: number, rank: number) => ({ implied, realized: 0.2, after, rank });
    const sessions = [session(0.2, 0.1, 0.1), session(0.3, 0.4, 0.5), session(0.4, 0.2, 0.9), session(0.5, NaN, 1)];
    const all = premiumOf(sessions)!;
    expect(all).toMatchObject({ sessions: 3, over: 2 / 3 });
    expect(all.mean).toBeCloseTo(0.2 / 3, 12);
    expect(all.median).toBeCloseTo(0.1, 12);
    expect(all.ratio).toBeCloseTo((2 * 0.75 * 2) ** (1 / 3), 12);
    expect(premiumOf(sessions, 'realized')!.sessions).toBe(4);
    expect(premiumOf(sessions.slice(0, 2))!.median).toBeCloseTo(0, 12);
    expect(premiumOf([])).toBeNull();
    const { low, middle, high } = premiumByRegime(sessions);
    expect([low!.mean, middle!.mean, high!.mean].map((value) => Number(value.toFixed(12)))).toEqual([0.1, -0.1, 0.2]);
    expect([regimeOf(0), regimeOf(0.34), regimeOf(1), regimeOf(NaN)]).toEqual(['low', 'middle', 'high', null]);
  });
  it('of a price that moves as it was implied to, nothing is earned on average', () => {
    const random = gaussians(2);
    let level = 0;
    const close = Float64Array.from({ length: 40_000 }, () => Math.exp((level += (0.2 * random()) / Math.sqrt(252))));
    const implied = new Float64Array(close.length).fill(0.2);
    const sessions = premiumSessions({ implied, realized: implied, close }, 21);
    expect(sessions.filter(({ after }) => Number.isFinite(after))).toHaveLength(40_000 - 21);
    // A root of a mean is a little under the mean's root, 1/(4n) of it; 1 900 windows tell it to 0.0007.
    expect(Math.abs(premiumOf(sessions)!.mean - 0.2 / (4 * 21))).toBeLessThan(0.002);
    expect(sessions[5]!.rank).toBeNaN();
  });
});

describe('announcements studied', () => {
  const HOUR = 3_600_000;
  const moment = (hours: number, price: number, vol: number, expectedMove = NaN): StudyMoment => ({
    instant: hours * HOUR,
    price,
    vol,
    expectedMove,
  });
  const moments = [
    moment(0, 99, 0.5, 4),
    moment(10, 100, 0.6, 5),
    moment(26, 108, 0.55, 3),
    moment(26.25, 107, 0.44, 3),
    moment(27, 107, 0.4, 3),
    moment(300, 110, 0.4, 3),
  ];
  it('move against what was expected, fall of the vol and how fast half of it went', () => {
    const [study] = eventStudies(moments, [20 * HOUR], 48 * HOUR);
    expect(study!.before.instant).toBe(10 * HOUR);
    expect(study!.after.instant).toBe(26 * HOUR);
    expect(study!.move).toBeCloseTo(0.08, 12);
    expect(study!.expected).toBeCloseTo(0.05, 12);
    expect(study!.ratio).toBeCloseTo(1.6, 12);
    expect(study!.change).toBeCloseTo(-0.05, 12);
    // From 60 to 40: half is at 50, which is met six and a quarter hours after.
    expect(study!.halfFall).toBeCloseTo(6.25, 12);
  });
  it('passes over what has no moment on both sides, and a vol that does not fall', () => {
    expect(eventStudies(moments, [-HOUR, 299 * HOUR, 400 * HOUR], 48 * HOUR)).toEqual([]);
    const rising = [moment(0, 100, 0.3, 5), moment(2, 101, 0.35, 5)];
    expect(eventStudies(rising, [HOUR], 48 * HOUR)[0]!.halfFall).toBeNaN();
    const blind = [moment(0, 100, NaN, 5), ...rising.slice(1)];
    expect(eventStudies(blind, [HOUR], 48 * HOUR)).toEqual([]);
  });
});
