import type { Side } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import {
  ChainResponse,
  ExpectedMoveResponse,
  ExpectedMovesResponse,
  MaxPainResponse,
  OpenContractsResponse,
  PriceResponse,
  ProbabilitiesResponse,
  SnapshotResponse,
  TapeResponse,
} from '../../web/src/lib/api/schemas';
import { get, post, problemOf, request } from './client';

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
    // By hand: N((μ − h)/σ) + e^(2μh/σ²)·N((−μ − h)/σ) with μ = −σ²/2 and h = ln 1.2, so 0.15587 + 0.20850/1.2.
    expect(levels.map(({ touch }) => touch)).toEqual([1, 0, expect.closeTo(0.32962, 5)]);
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
    // Raw SVI, which a curve can follow to the last digit: w = a + b(ρk + √(k² + σ²)), m = 0.
    const variance = (k: number) => 0.004 + 0.04 * (-0.4 * k + Math.sqrt(k * k + 0.0225));
    const volAt = (strike: number) => Math.sqrt(variance(Math.log(strike / 100)) / 0.25);
    const vols = strikes.map(volAt);
    const asked = { forward: 100, years: 0.25, slice: { strikes, vols }, levels: [95] };
    const { levels } = await post('/probabilities', asked, ProbabilitiesResponse);
    const vol = volAt(95);
    const slope = (volAt(95 + 1e-3) - volAt(95 - 1e-3)) / 2e-3;
    const d2 = Math.log(100 / 95) / (vol * 0.5) - 0.25 * vol;
    const density = Math.exp(-0.5 * d2 * d2) / Math.sqrt(2 * Math.PI);
    const one = await post('/probabilities', { forward: 100, years: 0.25, vol, levels: [95] }, ProbabilitiesResponse);
    // −∂C/∂K with the vol moving: N(d₂) less K·√T·φ(d₂)·∂σ/∂K.
    expect(levels[0]!.above).toBeCloseTo(one.levels[0]!.above! - 95 * 0.5 * slope * density, 6);
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
  it('the straddle at the forward, of the vols of the mids around it, at a rate', async () => {
    // Mids of one vol: the straddle at the forward is a call and a put struck there.
    const terms = { forward: 102, years: 0.25, rate: 0.04, vol: 0.22 } as const;
    const quoted = async (strike: number, side: Side) => {
      const contracts = [{ model: 'black-76', side, strike, ...terms }];
      const [result] = (await post('/price', { contracts }, PriceResponse)).results;
      if (!result || !('price' in result)) throw new Error('no price');
      return result.price!;
    };
    const straddles = await Promise.all(
      [100, 105].map(async (strike) => ({
        ...{ strike, callMid: await quoted(strike, 'call') },
        putMid: strike === 105 ? null : await quoted(strike, 'put'),
      })),
    );
    const { forward, years, rate } = terms;
    const { straddle } = await post(
      '/expected-move',
      { forward, years, rate, straddles, choice: 'forward' },
      ExpectedMoveResponse,
    );
    expect(straddle!.vol).toBeCloseTo(0.22, 10);
    expect(straddle!.move).toBeCloseTo((await quoted(102, 'call')) + (await quoted(102, 'put')), 9);
    // A strike with one side has its say; without a rate the discount is one.
    expect(straddle!.used.map(({ strike, putMid }) => [strike, putMid === null])).toEqual([
      [100, false],
      [105, true],
    ]);
    const plain = await post('/expected-move', { forward, years, straddles, choice: 'forward' }, ExpectedMoveResponse);
    expect(plain.straddle!.move).not.toBeCloseTo(straddle!.move, 3);
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

describe('what is held of moves, prints and open contracts', () => {
  it('expected moves of a moment are those of its fits, and of a span those of each session', async () => {
    const now = await get('/underlyings/MRX40/expected-moves', ExpectedMovesResponse);
    const { slices } = await get('/underlyings/MRX40/snapshots/latest', SnapshotResponse);
    expect(now.moves.map(({ expiry, straddle }) => [expiry, straddle])).toEqual(
      slices.map(({ fit }) => [fit.expiry, fit.straddleMove]),
    );
    const span = await get('/underlyings/MRX40/expected-moves?from=2031-03-01T00:00:00Z', ExpectedMovesResponse);
    const days = [...new Set(span.moves.map(({ day }) => day))];
    expect(days).toEqual(days.toSorted());
    expect(days.at(-1)).toBe('2031-03-13');
    // Of the last day, which has many moments, the last one alone.
    expect(span.moves.filter(({ day }) => day === '2031-03-13')).toEqual(now.moves);
    const csv = await (await request('/underlyings/MRX40/expected-moves?format=csv')).text();
    expect(csv.split('\r\n')[0]).toContain('straddle,deviation');
    await problemOf('/underlyings/NONE/expected-moves', 404);
    await problemOf('/underlyings/MRX40/expected-moves?asof=2001-01-01T00:00:00Z', 404);
  });
  it('prints come with theory of the curve at their time, the latest first', async () => {
    const { prints, count, to } = await get('/underlyings/MRX40/prints?most=400', TapeResponse);
    expect(prints).toHaveLength(400);
    expect(count).toBeGreaterThan(10_000);
    const times = prints.map(({ time }) => time);
    expect(times).toEqual(times.toSorted().reverse());
    expect(times[0]).toBe(to);
    const known = prints.filter(({ theoryAt }) => theoryAt !== null);
    expect(known.length).toBeGreaterThan(390);
    for (const { time, theoryAt } of known) expect(theoryAt! <= time).toBe(true);
    // The chain of that moment says the same of the contract.
    const one = prints.find(({ theory }) => theory !== null)!;
    const chain = await get(
      `/underlyings/MRX40/chain?asof=${one.theoryAt}&expiry=${one.expiry}&basis=curve`,
      ChainResponse,
    );
    const contract = chain.contracts.find(({ strike, side }) => strike === one.strike && side === one.side)!;
    expect(one.theory).toBeCloseTo(contract.theory!, 9);
    expect([one.bid, one.ask]).toEqual([contract.bid, contract.ask]);
    const large = await get('/underlyings/MRX40/prints?size=5&legs=several&most=50', TapeResponse);
    expect(large.prints.length).toBeGreaterThan(0);
    for (const print of large.prints) {
      expect(print.size).toBeGreaterThanOrEqual(5);
      expect(print.group).not.toBeNull();
    }
    // All of them lie above, below, or on theory; what is above alone is what all say of it.
    const [all, above, below] = await Promise.all(
      ['all', 'above', 'below'].map((against) =>
        get(`/underlyings/MRX40/prints?most=5000&size=5&against=${against}`, TapeResponse),
      ),
    );
    expect(above!.count + below!.count).toBeLessThanOrEqual(all!.count);
    expect([all!.balance.above, all!.balance.below]).toEqual([above!.balance.above, below!.balance.below]);
    expect(above!.balance.below).toBe(0);
    for (const { price, theory } of above!.prints) expect(price).toBeGreaterThan(theory!);
    const contracts = (side: typeof above) => side!.prints.reduce((sum, print) => sum + print.size, 0);
    expect(above!.prints).toHaveLength(above!.count);
    expect(contracts(above)).toBe(above!.balance.above);
    // Legs of one trade keep their name, also where others are left out.
    const names = new Map(all!.prints.map((print) => [JSON.stringify({ ...print, group: null }), print.group]));
    for (const print of above!.prints) expect(print.group).toBe(names.get(JSON.stringify({ ...print, group: null })));
    const before = await get('/underlyings/MRX40/prints?to=2031-03-13T10:00:00Z', TapeResponse);
    expect(before).toMatchObject({ count: 0, prints: [] });
    await problemOf('/underlyings/MRX40/prints?size=many', 400);
  });
  it('prints follow the curve of their time when that is fitted anew', async () => {
    const tape = () => get('/underlyings/LEEW/prints?most=500', TapeResponse);
    const before = await tape();
    const one = before.prints.find(({ theory }) => theory !== null)!;
    const { expiry, strike, side, theoryAt } = one;
    // What is nearest to the forward weighs most in the curve.
    const { slices } = await get(`/underlyings/LEEW/snapshots/${theoryAt}`, SnapshotResponse);
    const slice = slices.find(({ fit }) => fit.expiry === expiry)!;
    const near = slice.strike.reduce((best, level) =>
      Math.abs(level - slice.fit.forward!) < Math.abs(best - slice.fit.forward!) ? level : best,
    );
    const what = {
      ...{ asof: theoryAt, expiry, settlement: 'pm', strike: near },
      side: near > slice.fit.forward! ? 'call' : 'put',
    };
    await post('/underlyings/LEEW/verdicts', { ...what, verdict: 'aside' }, SnapshotResponse);
    const after = (await tape()).prints.find(
      ({ time, price, size }) => time === one.time && price === one.price && size === one.size,
    )!;
    expect(after.theory).not.toBe(one.theory);
    const chain = await get(`/underlyings/LEEW/chain?asof=${theoryAt}&expiry=${expiry}&basis=curve`, ChainResponse);
    const contract = chain.contracts.find((each) => each.strike === strike && each.side === side)!;
    expect(after.theory).toBeCloseTo(contract.theory!, 9);
    await post('/underlyings/LEEW/verdicts', { ...what, verdict: null }, SnapshotResponse);
    expect(await tape()).toEqual(before);
  });
  it('open contracts by strike are those of the chain, and their least by session is worked out from them', async () => {
    const open = await get('/underlyings/MRX40/open-contracts?expiry=2031-04-17&sessions=3', OpenContractsResponse);
    expect(open.path.map(({ day }) => day)).toEqual(['2031-03-11', '2031-03-12', '2031-03-13']);
    const { strike } = await post('/max-pain', { strikes: open.strikes }, MaxPainResponse);
    expect(open.path.at(-1)!.strike).toBe(strike);
    const chain = await get('/underlyings/MRX40/chain?expiry=2031-04-17', ChainResponse);
    const calls = chain.contracts.filter(({ side }) => side === 'call');
    expect(open.path.at(-1)!.callOpenInterest).toBe(calls.reduce((sum, one) => sum + (one.openInterest ?? 0), 0));
    await problemOf('/underlyings/MRX40/open-contracts?expiry=2031-04-18', 404);
    await problemOf('/underlyings/MRX40/open-contracts', 400);
  });
});

describe('a chain on a basis of one’s own', () => {
  const at = '/underlyings/MRX40/chain?expiry=2031-04-17&basis=';
  const put = async (query: string) => {
    const { contracts } = await get(at + query, ChainResponse);
    return contracts.find(({ strike, side }) => strike === 4000 && side === 'put')!;
  };
  it('takes a vol, a shift of the curve, or another historical vol', async () => {
    const [curve, flat, shifted] = [await put('curve'), await put('manual&vol=0.31'), await put('manual&shift=0.02')];
    expect(flat.vol).toBe(0.31);
    expect(shifted.vol).toBeCloseTo(curve.vol! + 0.02, 12);
    expect((shifted.theory! - curve.theory!) / (2 * curve.vega!)).toBeCloseTo(1, 1);
    const [usual, other] = [await put('realized'), await put('realized&hv=hv60.pk')];
    expect(other.vol).not.toBe(usual.vol);
    expect(curve.touch).toBeGreaterThan(curve.itm!);
    expect(curve.breakEven).toBeLessThan(curve.itm!);
  });
  it('names what is missing or unknown by its place', async () => {
    const { errors } = await problemOf(`${at}manual`, 400);
    expect(errors![0]!.path).toBe('vol');
    expect((await problemOf(`${at}realized&hv=hv20.xx`, 400)).errors![0]!.path).toBe('hv');
  });
});
