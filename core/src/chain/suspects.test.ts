import type { Side } from '../contracts/contract';
import { describe, expect, it } from 'vitest';
import { normalDensity } from '../distributions';
import { REASONS, reasonName } from '../implied';
import { curveVol, naturalCurve, type Curve } from '../surface';
import { emptySide } from './snapshot';
import { findSuspects, type JudgedSlice } from './suspects';

const YEARS = 0.1;
const curve = naturalCurve({ theta: 0.004, rho: -0.4, phi: 9 }, YEARS, 100);
const strike = Float64Array.from({ length: 17 }, (_, i) => 80 + 2.5 * i);

interface Made {
  /** By how much vols are off, by side and strike. */
  moves?: Record<string, number>;
  /** Contracts that stand still. */
  still?: readonly string[];
  half?: number;
  /** Contracts without a vol. */
  without?: readonly string[];
  past?: Curve | null;
  wanted?: readonly string[];
}

/** Both sides quoted around the curve. */
function judged({ moves = {}, still = [], half = 0.003, without = [], past = null, wanted = [] }: Made): JudgedSlice {
  const side = (name: Side) => {
    const mid = strike.map((level) => {
      const wobble = 0.0008 * Math.sin(7 * level + (name === 'call' ? 0 : 1));
      return curveVol(curve, Math.log(level / 100)) + wobble + (moves[`${name} ${level}`] ?? 0);
    });
    const isOut = Uint8Array.from(strike, (level) => Number(without.includes(`${name} ${level}`)));
    return {
      mid,
      bid: mid.map((vol) => vol - half),
      ask: mid.map((vol) => vol + half),
      reason: isOut.map((out) => (out ? REASONS.indexOf('crossed') : 0)),
    };
  };
  const marks = (name: string) => Uint8Array.from(strike, (level) => Number(still.includes(`${name} ${level}`)));
  const quotes = { call: emptySide(strike.length), put: emptySide(strike.length) };
  return {
    slice: { expiry: '2031-04-17', settlement: 'pm', strike, ...quotes },
    at: { years: YEARS, forward: 100 },
    ...{ calls: side('call'), puts: side('put'), still: { call: marks('call'), put: marks('put') }, past },
    curve: null,
    isWanted: (name, level) => wanted.includes(`${name} ${level}`),
  };
}

const found = (made: Made) =>
  findSuspects(judged(made))
    .map(({ side, strike: level, reason }) => `${side} ${level} ${reasonName(reason)}`)
    .sort();

describe('contracts that cannot be meant', () => {
  it('none where all lie along the curve', () => {
    expect(found({})).toEqual([]);
  });
  it('where call and put contradict each other the one off the curve of the others', () => {
    expect(found({ moves: { 'put 90': 0.08 } })).toEqual(['put 90 off-curve']);
    expect(found({ moves: { 'call 90': -0.08 } })).toEqual(['call 90 off-parity']);
    expect(found({ moves: { 'call 110': 0.02 } })).toEqual(['call 110 off-curve']);
    expect(found({ moves: { 'call 110': 0.02 }, still: ['call 110'] })).toEqual(['call 110 stale']);
    // A quote that stood still because nothing happened is not stale.
    expect(found({ still: ['call 110', 'put 90'] })).toEqual([]);
  });
  it('both where neither lies on it, as when a strike has the quotes of the next', () => {
    expect(found({ moves: { 'call 105': 0.05, 'put 105': -0.06 } })).toEqual([
      'call 105 off-curve',
      'put 105 off-parity',
    ]);
  });
  it('a quote at the end that pulls the curve onto itself, with nobody on the other side', () => {
    expect(found({ moves: { 'call 120': 0.09 }, without: ['put 120'] })).toEqual(['call 120 off-curve']);
    expect(found({ moves: { 'put 80': -0.06 }, without: ['call 80'] })).toEqual(['put 80 off-curve']);
  });
  it('what the forward is off by moves all strikes alike and is no contradiction, but hides none either', () => {
    // A forward that is off by 0.3: calls and puts are apart by that over the vega.
    const shifted = (more: Record<string, number>) =>
      Object.fromEntries(
        [...strike].map((level) => {
          const deviation = curveVol(curve, Math.log(level / 100)) * Math.sqrt(YEARS);
          const density = normalDensity(Math.log(100 / level) / deviation + 0.5 * deviation);
          const off = 0.3 / (100 * Math.sqrt(YEARS) * density);
          return [`call ${level}`, Math.min(off, 0.1) + (more[`call ${level}`] ?? 0)];
        }),
      );
    const near = [...strike].filter((level) => level >= 90 && level <= 110);
    const without = [...strike].filter((level) => !near.includes(level)).map((level) => `call ${level}`);
    expect(found({ moves: shifted({}), without }).filter((one) => one.endsWith('stale'))).toEqual([]);
    expect(found({ moves: shifted({ 'call 95': -0.025 }), without })).toContain('call 95 off-parity');
  });
  it('a wide quote may miss by more', () => {
    expect(found({ moves: { 'put 90': 0.025 }, half: 0.03 })).toEqual([]);
    expect(found({ moves: { 'put 90': 0.025 } })).toEqual(['put 90 off-curve']);
  });
  it('where many miss, the curve is wrong and none is set aside', () => {
    const moves = Object.fromEntries(
      [...strike].slice(0, 9).flatMap((level) => [
        [`put ${level}`, 0.1 * Math.sin(level)],
        [`call ${level}`, 0.1 * Math.sin(level)],
      ]),
    );
    expect(found({ moves })).toEqual([]);
  });
  it('of two or three strikes the session before tells', () => {
    const far = [...strike].filter((level) => level !== 100).flatMap((level) => [`call ${level}`, `put ${level}`]);
    const few = { moves: { 'put 100': 0.07 }, without: far };
    // Nobody can tell which one is wrong, unless one has stood still or there is a curve of before.
    expect(found(few)).toEqual([]);
    expect(found({ ...few, still: ['put 100'] })).toEqual(['put 100 stale']);
    expect(found({ ...few, past: curve })).toEqual(['put 100 off-parity']);
  });
  it('what has no vol is not judged, what somebody wants stays', () => {
    expect(found({ moves: { 'put 90': 0.2 }, without: ['put 90'] })).toEqual([]);
    expect(found({ moves: { 'put 90': 0.08 }, wanted: ['put 90'] })).not.toContain('put 90 off-curve');
  });
});
