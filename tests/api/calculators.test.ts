import { describe, expect, it } from 'vitest';
import { priceContract, type Side } from '@umwelt/core';
import reference from '../../core/fixtures/reference.json';
import {
  Health,
  ImpliedVolResponse,
  PriceResponse,
  RealizedVolResponse,
  SurfaceFitResponse,
  VarianceIndexResponse,
} from '../../web/src/lib/api/schemas';
import { get, post, problemOf, request } from './client';

const json = (body: unknown): RequestInit => ({ method: 'POST', body: JSON.stringify(body) });
const european = { model: 'black-scholes-merton', side: 'call', spot: 100, strike: 100, years: 1, rate: 0.05 } as const;

const withDividend = (amount: number) => ({ ...european, vol: 0.2, dividends: [{ years: 0.5, amount }] });

describe('health and document', () => {
  it('answers for itself and for the database', async () => {
    expect(await get('/health', Health)).toMatchObject({ status: 'ok', database: 'ok' });
  });
  it('the OpenAPI document names every path and resolves its references', async () => {
    const document = (await (await request('/openapi.json')).json()) as Record<string, never>;
    expect(document['openapi']).toBe('3.1.0');
    const paths = Object.keys(document['paths']!);
    for (const path of [
      '/health',
      '/price',
      '/implied-vol',
      '/underlyings',
      '/underlyings/{symbol}/chain',
      '/imports/{id}',
    ]) {
      expect(paths).toContain(path);
    }
    const text = JSON.stringify(document);
    for (const [, name] of text.matchAll(/"#\/components\/schemas\/([^"]+)"/g)) {
      expect(document['components']!['schemas']![name!], name).toBeDefined();
    }
  });
});

describe('price', () => {
  it('agrees with mpmath for all four models and every Greek', async () => {
    const contracts = reference.contracts.map(({ contract }) => contract);
    const { results } = await post('/price', { contracts }, PriceResponse);
    results.forEach((result, i) => {
      for (const [name, expected] of Object.entries(reference.contracts[i]!.values)) {
        const got = (result as unknown as Record<string, number>)[name]!;
        expect(Math.abs(got - expected), `${i} ${name}`).toBeLessThan(2e-13 * Math.max(1, Math.abs(expected)));
      }
    });
  });
  it('writes values that do not exist as null', async () => {
    const { results } = await post('/price', { contracts: [{ ...european, years: 0, vol: 0.2 }] }, PriceResponse);
    expect(results[0]).toMatchObject({ price: 0, delta: 0.5, gamma: null });
  });
  it('an item without an answer does not fail the batch', async () => {
    const contracts = [
      { ...european, vol: 0.2, years: -1 },
      { ...european, vol: 0.2 },
    ];
    const { results } = await post('/price', { contracts }, PriceResponse);
    expect(results[0]).toMatchObject({ error: { code: 'expired' } });
    // Hull, chapter 15 (from memory): 10.45 for an at-the-money year at 20 % and 5 %.
    expect((results[1] as { price: number }).price).toBeCloseTo(10.4506, 4);
  });
  it.each([
    ['a missing forward', { ...european, model: 'black-76', vol: 0.2 }, 'contracts.0.forward'],
    ['an unknown model', { ...european, model: 'guess', vol: 0.2 }, 'contracts.0.model'],
    ['a negative vol', { ...european, vol: -0.2 }, 'contracts.0.vol'],
    ['a strike of zero', { ...european, strike: 0, vol: 0.2 }, 'contracts.0.strike'],
    ['a number as text', { ...european, vol: '0.2' }, 'contracts.0.vol'],
    ['a dividend less than nothing', withDividend(-1), 'contracts.0.dividends.0.amount'],
    ['a dividend on a forward', { ...withDividend(1), model: 'black-76', forward: 100 }, 'contracts.0.dividends'],
    ['early exercise', { ...european, vol: 0.2, exercise: 'american' }, 'contracts.0.exercise'],
    ['too few steps', { ...european, model: 'binomial', vol: 0.2, steps: 2 }, 'contracts.0.steps'],
  ])('%s is named by its place', async (_, contract, path) => {
    const { errors } = await problemOf('/price', 400, json({ contracts: [contract] }));
    expect(errors!.map((error) => error.path)).toContain(path);
  });
  it('a body that is not JSON is refused, and so is a page of another origin', async () => {
    expect((await problemOf('/price', 400, { method: 'POST', body: 'price it' })).detail).toContain('not JSON');
    await problemOf('/price', 403, { ...json({ contracts: [] }), headers: { origin: 'http://elsewhere.example' } });
  });
  it('a batch of 20 000 comes back whole', async () => {
    const contracts = Array.from({ length: 20_000 }, (_, i) => ({ ...european, strike: 50 + i / 200, vol: 0.2 }));
    const { results } = await post('/price', { contracts }, PriceResponse);
    expect(results).toHaveLength(20_000);
    const prices = results.map((result) => (result as { price: number }).price);
    expect(prices.every((price, i) => i === 0 || price < prices[i - 1]!)).toBe(true);
  });
});

describe('early exercise', () => {
  // F. Longstaff and E. Schwartz, "Valuing American options by simulation" (2001), table 1, from memory.
  const put = { model: 'american', side: 'put', spot: 36, strike: 40, years: 1, rate: 0.06, vol: 0.2 } as const;
  it('american and binomial agree, on every Greek', async () => {
    const contracts = [
      put,
      { ...put, model: 'binomial', steps: 2001 },
      { ...put, model: 'binomial', steps: 2001, exercise: 'european' },
    ];
    const { results } = await post('/price', { contracts }, PriceResponse);
    const [american, tree, european] = results as unknown as Record<string, number>[];
    expect(american!['price']).toBeCloseTo(4.478, 1);
    for (const [name, value] of Object.entries(american!)) {
      if (name === 'pricedBy') continue;
      // A tree of 2001 steps leaves some thousandths in what moves with vol and rate.
      expect(Math.abs(tree![name]! - value), name).toBeLessThan(5e-3 * Math.abs(value) + 1e-5);
    }
    expect(american!['price']).toBeGreaterThan(european!['price']! + 0.5);
    expect([american!['pricedBy'], tree!['pricedBy']]).toEqual(['american', 'binomial']);
  });
  it('with cash dividends goes to the tree, and says so; the closed forms take them out of the spot', async () => {
    const dividends = [{ years: 0.5, amount: 2 }];
    const contracts = [
      { ...put, dividends },
      { ...put, model: 'black-scholes-merton', dividends },
      { ...put, model: 'black-scholes-merton', spot: 36 - 2 * Math.exp(-0.03) },
    ];
    const { results } = await post('/price', { contracts }, PriceResponse);
    const [early, escrowed, stripped] = results as Record<string, number | string>[];
    expect(early).toMatchObject({ pricedBy: 'binomial', touch: null });
    expect(escrowed!['price']).toBeCloseTo(stripped!['price'] as number, 12);
  });
  it('vols come back from its prices, with a reason where there is none', async () => {
    const contracts = [put, { ...put, dividends: [{ years: 0.5, amount: 2 }] }];
    const { results: prices } = await post('/price', { contracts }, PriceResponse);
    const asked = contracts.map((contract, i) => ({ ...contract, price: (prices[i] as { price: number }).price }));
    const { results } = await post(
      '/implied-vol',
      { contracts: [...asked, { ...put, price: 4 }, { ...put, price: 40 }] },
      ImpliedVolResponse,
    );
    expect((results[0] as { vol: number }).vol).toBeCloseTo(0.2, 9);
    expect((results[1] as { vol: number }).vol).toBeCloseTo(0.2, 9);
    expect(results.slice(2)).toMatchObject([
      { error: { code: 'below-intrinsic' } },
      { error: { code: 'above-maximum' } },
    ]);
  });
  it('more work than is done for one request is refused, with how many would fit', async () => {
    const many = Array.from({ length: 100_000 }, () => put);
    const { detail, fits, errors } = await problemOf('/price', 422, json({ contracts: many }));
    expect(errors![0]!.path).toBe('contracts');
    expect(Number(fits)).toBeGreaterThan(1000);
    expect(detail).toContain(`about ${Number(fits)} of them fit`);
    const trees = Array.from({ length: 100 }, () => ({ ...put, model: 'binomial', steps: 20_001 }));
    expect(Number((await problemOf('/price', 422, json({ contracts: trees })))['fits'])).toBe(3);
  });
  it('a large batch comes back in its order, with a place for each fault', async () => {
    const contracts = Array.from({ length: 30_000 }, (_, i) => ({
      ...{ model: 'black-scholes-merton', side: 'call', spot: 100, years: 1, rate: 0, vol: 0.2 },
      strike: 50 + i / 100,
    }));
    const { results } = await post('/price', { contracts }, PriceResponse);
    const prices = results.map((result) => (result as { price: number }).price);
    expect(prices).toHaveLength(contracts.length);
    expect(prices).toEqual(prices.toSorted((a, b) => b - a));
    const [alone] = (await post('/price', { contracts: [contracts[12_345]] }, PriceResponse)).results;
    expect(results[12_345]).toEqual(alone);
    Object.assign(contracts[29_999]!, { vol: -1 });
    const { errors } = await problemOf('/price', 400, json({ contracts }));
    expect(errors!.map(({ path }) => path)).toEqual(['contracts.29999.vol']);
  });
  it('callers take turns: a small batch is answered beside large ones, and health at once', async () => {
    const large = Array.from({ length: 2000 }, (_, i) => ({ ...put, strike: 30 + i / 50 }));
    const leaving = new AbortController();
    let areDone = 0;
    const batches = [1, 2].map(() =>
      request('/price', { ...json({ contracts: large }), signal: leaving.signal }).finally(() => areDone++),
    );
    const small = await post('/price', { contracts: large.slice(0, 20) }, PriceResponse);
    expect(small.results).toHaveLength(20);
    await get('/health', Health);
    expect(areDone).toBe(0);
    leaving.abort();
    await Promise.allSettled(batches);
    // What was left of them is not done: the next is answered as if they had not been.
    expect((await post('/price', { contracts: large.slice(0, 20) }, PriceResponse)).results).toEqual(small.results);
  });
});

describe('realized vol', () => {
  const closes = [100, 101, 99.5, 102, 101, 103.5];
  const bars = closes.map((close, i) => ({
    date: `2031-01-${String(6 + i).padStart(2, '0')}`,
    ...{ open: close, high: close + 1, low: close - 1, close },
  }));
  const ask = { bars, window: 4, estimator: 'close' };
  it('begins with the first bar that has a full window', async () => {
    const { series } = await post('/realized-vol', ask, RealizedVolResponse);
    expect(series.map(({ date }) => date)).toEqual(['2031-01-10', '2031-01-11']);
    // By hand: the sample deviation of four returns, a year of 252.
    const returns = closes.slice(1, 5).map((close, i) => Math.log(close / closes[i]!));
    const mean = returns.reduce((sum, r) => sum + r) / 4;
    const vol = Math.sqrt((returns.reduce((sum, r) => sum + (r - mean) ** 2, 0) / 3) * 252);
    expect(series[0]!.vol).toBeCloseTo(vol, 12);
    const parkinson = { ...ask, estimator: 'parkinson', periodsPerYear: 365 };
    const { series: ranges } = await post('/realized-vol', parkinson, RealizedVolResponse);
    expect(ranges).toHaveLength(3);
    const squares = closes.slice(0, 4).map((close) => Math.log((close + 1) / (close - 1)) ** 2 / (4 * Math.LN2));
    expect(ranges[0]!.vol).toBeCloseTo(Math.sqrt((squares.reduce((sum, s) => sum + s) / 4) * 365), 12);
  });
  it('names the bar that is wrong', async () => {
    const of = async (body: object) => (await problemOf('/realized-vol', 400, json(body))).errors![0]!.path;
    expect(await of({ ...ask, bars: bars.toReversed() })).toBe('bars.1.date');
    expect(await of({ ...ask, bars: bars.map((bar) => ({ ...bar, low: bar.close + 0.5 })) })).toBe('bars.0.high');
    expect(await of({ ...ask, window: 1 })).toBe('window');
    expect((await post('/realized-vol', { ...ask, window: 10 }, RealizedVolResponse)).series).toEqual([]);
  });
});

describe('variance index', () => {
  it('of a flat market is its vol, and says what it was made of', async () => {
    const term = (minutes: number) => {
      const years = minutes / 525_600;
      const strikes = Array.from({ length: 241 }, (_, i) => {
        const strike = 40 + 0.5 * i;
        const mid = (side: Side) =>
          priceContract({ model: 'black-76', side, forward: 100, strike, years, rate: 0.02, vol: 0.25 }).price;
        const [call, put] = [mid('call'), mid('put')];
        const bid = (price: number) => Math.max(0, price - 0.001);
        return { strike, callBid: bid(call), callAsk: call + 0.001, putBid: bid(put), putAsk: put + 0.001 };
      });
      return { minutes, rate: 0.02, strikes };
    };
    const terms = [term(33_000), term(48_000)];
    const answer = await post('/variance-index', { terms }, VarianceIndexResponse);
    expect(answer.index).toBeCloseTo(25, 1);
    expect(answer.terms[0]).toMatchObject({ k0: 100 });
    expect((answer.terms[0] as { forward: number }).forward).toBeCloseTo(100, 6);
    const empty = { ...terms[1]!, strikes: [] };
    const without = await post('/variance-index', { terms: [terms[0], empty] }, VarianceIndexResponse);
    expect(without).toMatchObject({ index: null, terms: [answer.terms[0], { error: { code: 'too-few' } }] });
    await problemOf('/variance-index', 400, json({ terms: [terms[0]] }));
  });
});

describe('a surface of given vols', () => {
  const strikes = Array.from({ length: 17 }, (_, i) => 80 + 2.5 * i);
  const raw = { a: 0.002, b: 0.05, rho: -0.4, m: 0.01, sigma: 0.1 };
  const volAt = (strike: number, years: number, lift = 0) => {
    const { a, b, rho, m, sigma } = raw;
    const k = Math.log(strike / 100) - m;
    return Math.sqrt((a + lift + b * (rho * k + Math.sqrt(k * k + sigma * sigma))) / years);
  };
  const slice = (years: number, lift = 0) => ({
    ...{ years, forward: 100, strikes, vols: strikes.map((strike) => volAt(strike, years, lift)) },
  });
  const fit = (body: object) => post('/surface/fit', body, SurfaceFitResponse);
  it('gives raw SVI back, and what lies between', async () => {
    const query = [
      { years: 0.25, strike: 90 },
      { years: 0.5, strike: 90 },
    ];
    const answer = await fit({ slices: [slice(0.75, 0.01), slice(0.25)], query });
    expect(answer.calendarArbitrage).toEqual([]);
    expect(answer.slices.map(({ years }) => years)).toEqual([0.75, 0.25]);
    for (const one of answer.slices) expect(one).toMatchObject({ params: { kind: 'svi' }, butterflyArbitrage: [] });
    for (const { rmse, maxError } of answer.slices) expect(maxError).toBeGreaterThanOrEqual(rmse);
    for (const { maxError } of answer.slices) expect(maxError).toBeLessThan(1e-5);
    const variance = [volAt(90, 0.25) ** 2 * 0.25, volAt(90, 0.75, 0.01) ** 2 * 0.75];
    expect(answer.query[0]!.vol).toBeCloseTo(volAt(90, 0.25), 5);
    expect(answer.query[1]!.vol).toBeCloseTo(Math.sqrt((variance[0]! + variance[1]!) / 2 / 0.5), 5);
    expect(answer.query.every(({ density }) => density > 0)).toBe(true);
  });
  it('tells what is wrong with the vols', async () => {
    const near = slice(0.25);
    const [vols, at] = [[...near.vols], 8];
    vols[at] = vols[at]! + 0.05;
    const answer = await fit({ slices: [{ ...near, vols }, slice(0.5, -0.001)] });
    const { from, to } = answer.slices[0]!.butterflyArbitrage[0]!;
    expect([from, to]).toEqual([strikes[at - 1], strikes[at + 1]]);
    expect(answer.calendarArbitrage).toEqual([{ nearYears: 0.25, farYears: 0.5 }]);
  });
  it('refuses what is none, by its place', async () => {
    const one = slice(0.25);
    for (const [body, path] of [
      [{ slices: [] }, 'slices'],
      [{ slices: [{ ...one, vols: [0.2] }] }, 'slices.0.vols'],
      [{ slices: [{ ...one, weights: [1] }] }, 'slices.0.weights'],
      [{ slices: [one, one] }, 'slices'],
      [{ slices: [{ ...one, forward: -1 }] }, 'slices.0.forward'],
      [{ slices: [one], query: [{ years: 0, strike: 100 }] }, 'query.0.years'],
    ] as const) {
      const { errors } = await problemOf('/surface/fit', 400, json(body));
      expect((errors as { path: string }[])[0]!.path).toBe(path);
    }
  });
});

describe('implied vol', () => {
  it('gives back the vols that mpmath made the prices with', async () => {
    const contracts = reference.impliedVols.map(({ side, forward, strike, years, price }) => ({
      model: 'black-76',
      side,
      forward,
      strike,
      years,
      rate: 0,
      price,
    }));
    const { results } = await post('/implied-vol', { contracts }, ImpliedVolResponse);
    results.forEach((result, i) => {
      expect(Math.abs((result as { vol: number }).vol / reference.impliedVols[i]!.vol - 1)).toBeLessThan(2e-14);
    });
  });
  it('gives a reason where there is none, item by item', async () => {
    const prices = [3, 101, 10.4506];
    const { results } = await post(
      '/implied-vol',
      { contracts: prices.map((price) => ({ ...european, price })) },
      ImpliedVolResponse,
    );
    expect(results[0]).toMatchObject({ error: { code: 'below-intrinsic' } });
    expect(results[1]).toMatchObject({ error: { code: 'above-maximum' } });
    expect((results[2] as { vol: number }).vol).toBeCloseTo(0.2, 5);
  });
});

describe('what is not answered', () => {
  it.each([
    ['/nothing', 404],
    ['/price', 405],
  ])('GET %s is a problem with status %i', async (path, status) => {
    await problemOf(path, status);
  });
});
