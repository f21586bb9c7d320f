import { describe, expect, it } from 'vitest';
import {
  ExpectedMoveResponse,
  MaxPainResponse,
  PriceResponse,
  ProbabilitiesResponse,
} from '../../web/src/lib/server/api/schemas';
import { post, problemOf } from './client';

const json = (body: unknown): RequestInit => ({ method: 'POST', body: JSON.stringify(body) });

describe('probabilities', () => {
  const flat = { forward: 101, spot: 100, years: 0.25, vol: 0.2 };
  it('of one vol are the N(d₂) and the touch that prices carry', async () => {
    const levels = [90, 101, 115];
    const { levels: found } = await post('/probabilities', { ...flat, levels }, ProbabilitiesResponse);
    const rate = Math.log(1.01) / 0.25;
    const contracts = levels.map((strike) => ({
      ...{ model: 'black-scholes-merton', side: 'call', spot: 100, strike, years: 0.25, rate, vol: 0.2 },
    }));
    const { results } = await post('/price', { contracts }, PriceResponse);
    found.forEach((one, i) => {
      const price = results[i] as { itm: number; touch: number };
      expect(one.above).toBeCloseTo(price.itm, 12);
      expect(one.below! + one.above!).toBeCloseTo(1, 14);
      expect(one.touch).toBeCloseTo(price.touch, 12);
    });
  });
  it('without a spot touch from the forward, driftless; nothing touches what is not positive', async () => {
    const { levels } = await post(
      '/probabilities',
      { forward: 100, years: 1, vol: 0.2, levels: [100, -5, 120] },
      ProbabilitiesResponse,
    );
    expect(levels.map(({ touch }) => touch)).toEqual([1, 0, expect.closeTo(0.3422, 3)]);
    expect(levels[1]).toMatchObject({ above: 1, below: 0 });
  });
  it('make a zone more than levels, ascending, that sum to one', async () => {
    const { zones } = await post('/probabilities', { ...flat, levels: [110, 90, 100] }, ProbabilitiesResponse);
    expect(zones.map(({ from, to }) => [from, to])).toEqual([
      ...[[null, 90] as const, [90, 100] as const, [100, 110] as const, [110, null] as const],
    ]);
    expect(zones.reduce((sum, { probability }) => sum + probability!, 0)).toBeCloseTo(1, 14);
  });
  it('of a slice count the slope of its curve, and have no touch', async () => {
    const strikes = Array.from({ length: 25 }, (_, i) => 70 + 2.5 * i);
    const vols = strikes.map((strike) => 0.2 - 0.2 * Math.log(strike / 100));
    const asked = { forward: 100, years: 0.25, slice: { strikes, vols }, levels: [95] };
    const { levels } = await post('/probabilities', asked, ProbabilitiesResponse);
    const vol = 0.2 - 0.2 * Math.log(0.95);
    const d2 = Math.log(100 / 95) / (vol * 0.5) - 0.25 * vol;
    const density = Math.exp(-0.5 * d2 * d2) / Math.sqrt(2 * Math.PI);
    const one = await post('/probabilities', { forward: 100, years: 0.25, vol, levels: [95] }, ProbabilitiesResponse);
    expect(levels[0]!.above).toBeCloseTo(one.levels[0]!.above! + 0.5 * 0.2 * density, 3);
    expect(levels[0]!.touch).toBeNull();
    const even = { ...asked, slice: { strikes, vols: strikes.map(() => 0.2) } };
    const level = await post('/probabilities', even, ProbabilitiesResponse);
    const plain = await post(
      '/probabilities',
      { forward: 100, years: 0.25, vol: 0.2, levels: [95] },
      ProbabilitiesResponse,
    );
    expect(level.levels[0]!.above).toBeCloseTo(plain.levels[0]!.above!, 6);
  });
  it.each([
    ['no vol', { forward: 100, years: 1, levels: [] }, 'vol'],
    ['both', { forward: 100, years: 1, vol: 0.2, slice: { strikes: [1], vols: [1] }, levels: [] }, 'slice'],
    ['a forward under zero', { forward: -3, years: 1, vol: 0.2, levels: [] }, 'forward'],
    [
      'vols for other strikes',
      { forward: 1, years: 1, slice: { strikes: [1, 2], vols: [1] }, levels: [] },
      'slice.vols',
    ],
    ['a negative time', { forward: 1, years: -1, vol: 0.2, levels: [] }, 'years'],
  ])('%s is named by its place', async (_, body, path) => {
    const { errors } = await problemOf('/probabilities', 400, json(body));
    expect(errors!.map((error) => error.path)).toContain(path);
  });
  it('at the expiry itself are certain', async () => {
    const { levels } = await post('/probabilities', { ...flat, years: 0, levels: [90, 120] }, ProbabilitiesResponse);
    expect(levels).toEqual([
      { level: 90, above: 1, below: 0, touch: 0 },
      { level: 120, above: 0, below: 1, touch: 0 },
    ]);
  });
});

describe('expected move', () => {
  const straddles = [
    { strike: 105, callMid: 3, putMid: 6.5 },
    { strike: 100, callMid: 5, putMid: 4 },
  ];
  it('by the straddles around the forward, and as one deviation', async () => {
    const asked = { forward: 101, years: 0.25, atmVol: 0.2, straddles };
    const { straddle, deviation } = await post('/expected-move', asked, ExpectedMoveResponse);
    expect(straddle).toMatchObject({ move: expect.closeTo(9.1, 12), low: expect.closeTo(91.9, 12) });
    expect(straddle!.used.map(({ weight }) => weight)).toEqual([expect.closeTo(0.8, 12), expect.closeTo(0.2, 12)]);
    expect(deviation).toEqual({
      move: expect.closeTo(10.1, 12),
      low: expect.closeTo(90.9, 12),
      high: expect.closeTo(111.1, 12),
    });
    const nearest = await post('/expected-move', { ...asked, choice: 'nearest' }, ExpectedMoveResponse);
    expect(nearest.straddle!.move).toBe(9);
  });
  it('says what is missing, and answers the rest', async () => {
    const half = [{ strike: 100, callMid: 5, putMid: null }];
    const found = await post('/expected-move', { forward: 100, years: 1, straddles: half }, ExpectedMoveResponse);
    expect(found).toEqual({
      straddle: null,
      deviation: null,
      missing: { straddle: 'no strike has both mids', deviation: 'no atmVol was given' },
    });
    const { errors } = await problemOf('/expected-move', 400, json({ forward: 100, years: 1 }));
    expect(errors![0]!.path).toBe('atmVol');
  });
});

describe('max pain', () => {
  it('is the strike where open contracts are worth least, the lowest of equals', async () => {
    const strikes = [
      { strike: 110, callOpenInterest: 50, putOpenInterest: 10 },
      { strike: 100, callOpenInterest: 20, putOpenInterest: 60 },
      { strike: 105, callOpenInterest: 30, putOpenInterest: 40 },
    ];
    const { strike, curve } = await post('/max-pain', { strikes, multiplier: 100 }, MaxPainResponse);
    expect(strike).toBe(105);
    expect(curve[0]).toEqual({ price: 100, callValue: 0, putValue: 30_000, total: 30_000 });
    const none = { callOpenInterest: null, putOpenInterest: 0 };
    const tie = {
      strikes: [
        { strike: 2, ...none },
        { strike: 1, ...none },
      ],
    };
    expect((await post('/max-pain', tie, MaxPainResponse)).strike).toBe(1);
    const { errors } = await problemOf('/max-pain', 400, json({ strikes: [] }));
    expect(errors![0]!.path).toBe('strikes');
  });
});
