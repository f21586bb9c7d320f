import { describe, expect, it } from 'vitest';
import type { z } from 'zod';
import {
  ChainResponse,
  EvaluateRequest,
  EvaluateResponse,
  MarketEvaluateRequest,
  MarketEvaluateResponse,
  PriceResponse,
  SnapshotResponse,
} from '../../web/src/lib/api/schemas';
import { get, post, problemOf } from './client';

type Asked = z.input<typeof EvaluateRequest>;

const MARKET = { spot: 100, rate: 0.04, yield: 0.015, multiplier: 100 };
const option = (side: 'call' | 'put', strike: number, quantity: number, entry: number, more = {}) =>
  ({ kind: 'option', side, strike, quantity, entry, years: 0.2, vol: 0.25, ...more }) as const;
const evaluate = (legs: Asked['legs'], more: Partial<Asked> = {}) =>
  post('/structures/evaluate', { ...MARKET, legs, ...more }, EvaluateResponse);

describe('structures of given legs', () => {
  it('an iron condor, by hand', async () => {
    const found = await evaluate([
      option('put', 85, 2, 0.4),
      option('put', 90, -2, 0.9),
      option('call', 110, -2, 1.1),
      option('call', 115, 2, 0.6),
    ]);
    // Takes in (0.9 − 0.4 + 1.1 − 0.6) × 2 × 100; the wings are 5 wide.
    expect(found).toMatchObject({
      entry: -200,
      maxProfit: 200,
      maxLoss: 800,
      unlimited: { profit: false, loss: false },
    });
    expect(found.breakEvens).toEqual([89, 111]);
    expect(found.gains).toEqual([{ from: 89, to: 111 }]);
    expect(found.horizonDays).toBeCloseTo(73, 9);
    expect(found.worst5).toBeGreaterThanOrEqual(-800.000001);
    expect(found.curves.map(({ points }) => points.length)).toEqual([81, 81, 81, 81]);
  });
  it('values, Greeks and odds are those of /price', async () => {
    const contract = { model: 'black-scholes-merton', side: 'call', spot: 100, rate: 0.04, yield: 0.015, years: 0.2 };
    const { results } = await post(
      '/price',
      { contracts: [105, 107].map((strike) => ({ ...contract, strike, vol: 0.25 })) },
      PriceResponse,
    );
    const [sold, even] = results as Extract<(typeof results)[number], { price: number | null }>[];
    const found = await evaluate([option('call', 105, -3, 2)], { prices: [100], afterDays: [0] });
    expect(found.value).toBeCloseTo(-300 * sold!.price!, 8);
    for (const name of ['delta', 'gamma', 'theta', 'vega', 'rho', 'vanna', 'volga', 'charm'] as const) {
      expect(found.greeks[name], name).toBeCloseTo(-300 * sold![name]!, 8);
    }
    expect(found.curves[0]!.points[0]!.pnl).toBeCloseTo(600 - 300 * sold!.price!, 8);
    expect(found.probabilityOfProfit).toBeCloseTo(1 - even!.itm!, 10);
    expect(found).toMatchObject({ maxProfit: 600, maxLoss: null, unlimited: { profit: false, loss: true } });
    expect(found.expected).toBeCloseTo(600 - 300 * sold!.price! * Math.exp(0.04 * 0.2), 6);
  });
  it('a covered call counts shares as they are; a shift of vol moves values, not what was paid', async () => {
    const legs = [{ kind: 'underlying', quantity: 100, entry: 99 } as const, option('call', 105, -1, 2)];
    const [plain, shifted] = await Promise.all([evaluate(legs), evaluate(legs, { volShift: 0.05 })]);
    expect(plain).toMatchObject({ entry: 9700, maxProfit: 800, maxLoss: 9700, breakEvens: [97] });
    expect(shifted.entry).toBe(9700);
    expect(shifted.value).toBeLessThan(plain.value);
    expect(shifted.breakEvens).toEqual([97]);
  });
  it('a calendar is searched at its first expiry, and its later leg keeps its own vol', async () => {
    const legs = [option('put', 100, -1, 3.5), option('put', 100, 1, 5.5, { years: 0.5, vol: 0.27 })];
    const found = await evaluate(legs, { vol: 0.3 });
    expect(found.horizonDays).toBeCloseTo(73, 9);
    expect(found.breakEvens).toHaveLength(2);
    const there = await evaluate(legs, { prices: [...found.breakEvens, 100], afterDays: [73] });
    for (const { pnl } of there.curves[0]!.points.slice(0, 2)) expect(pnl).toBeCloseTo(0, 4);
    expect(there.curves[0]!.points[2]!.pnl).toBeLessThanOrEqual(found.maxProfit! + 1e-6);
    // At a price of nothing the later put is worth its strike discounted, the first one its strike.
    expect(found.maxLoss).toBeCloseTo(found.entry + 100 * 100 * (1 - Math.exp(-0.04 * 0.3)), 6);
  });
  it('the underlying alone has no horizon, so no odds', async () => {
    const found = await evaluate([{ kind: 'underlying', quantity: -10, entry: 101 }]);
    expect(found).toMatchObject({ horizonDays: null, probabilityOfProfit: null, breakEvens: [101], maxLoss: null });
  });
  it('bad input is told by its place', async () => {
    const wrong = async (body: object) =>
      (await problemOf('/structures/evaluate', 400, { method: 'POST', body: JSON.stringify({ ...MARKET, ...body }) }))
        .errors as { path: string; message: string }[];
    const { vol: _, ...without } = option('call', 105, 1, 2);
    expect(await wrong({ legs: [without] })).toMatchObject([{ path: 'legs.0.vol' }]);
    expect(await wrong({ legs: [] })).toMatchObject([{ path: 'legs' }]);
    expect(await wrong({ legs: [{ kind: 'bond', quantity: 1 }] })).toMatchObject([{ path: 'legs.0.kind' }]);
    expect(await wrong({ legs: Array(13).fill(option('call', 105, 1, 2)) })).toMatchObject([{ path: 'legs' }]);
    const many = { prices: Array(2000).fill(100), afterDays: Array(20).fill(1) };
    expect(await wrong({ legs: [option('call', 105, 1, 2)], ...many })).toMatchObject([{ path: 'prices' }]);
  });
});

type OnMarket = z.input<typeof MarketEvaluateRequest>;

describe('structures on their market', () => {
  const on = (symbol: string, legs: OnMarket['legs'], more: Partial<OnMarket> = {}) =>
    post(`/underlyings/${symbol}/structures/evaluate`, { legs, ...more }, MarketEvaluateResponse);
  const refused = async (symbol: string, body: object, status = 422) =>
    (
      await problemOf(`/underlyings/${symbol}/structures/evaluate`, status, {
        method: 'POST',
        body: JSON.stringify(body),
      })
    ).errors as { path: string; message: string }[];
  const chainOf = async (symbol: string, expiry: string) =>
    (await get(`/underlyings/${symbol}/chain?expiry=${expiry}`, ChainResponse)).contracts;
  const fitOf = async (symbol: string, day: string) =>
    (await get(`/underlyings/${symbol}/snapshots/latest`, SnapshotResponse)).slices.find(
      ({ fit }) => fit.expiry === day,
    )!.fit;
  const vertical: OnMarket['legs'] = [
    { expiry: '2031-04-17', strike: 4300, side: 'call', quantity: 1 },
    { expiry: '2031-04-17', strike: 4400, side: 'call', quantity: -1 },
  ];

  it('costs the mids of the chain, is worth its theory, and gains on average what carrying its cost costs', async () => {
    const [found, contracts] = await Promise.all([on('MRX40', vertical), chainOf('MRX40', '2031-04-17')]);
    const [low, high] = [4300, 4400].map((strike) =>
      contracts.find((one) => one.strike === strike && one.side === 'call')!,
    );
    expect(found.cost.mid).toBeCloseTo(low!.mid! - high!.mid!, 9);
    expect(found.cost.worst).toBeCloseTo(low!.ask! - high!.bid!, 9);
    expect(found.value).toBeCloseTo(low!.theory! - high!.theory!, 8);
    // Where announcements keep their variance for themselves a day takes less of it.
    const evenly = await on('MRX40', vertical, { scenario: { events: false } });
    for (const name of ['delta', 'gamma', 'theta', 'vega'] as const) {
      expect(evenly.greeks[name], name).toBeCloseTo(low![name]! - high![name]!, 5);
    }
    expect(found.greeks.theta!).toBeGreaterThan(evenly.greeks.theta!);
    // Half of the most is met the more often on the way than at the end, and a curve has no path.
    expect(found.half.map(({ basis }) => basis)).not.toContain('curve');
    for (const basis of ['level', 'past'] as const) {
      const half = found.half.find((one) => one.basis === basis)!;
      expect(half.probability!).toBeGreaterThan(
        found.odds.find((one) => one.basis === basis)!.mostProfit! - 4 * half.error!,
      );
      expect(half.error!).toBeLessThan(0.05);
    }
    // Two contracts at 2, over a multiplier of 10.
    const paid = await on('MRX40', vertical, { fee: 2 });
    expect([paid.fees, paid.entry - found.entry, paid.cost.best! - found.cost.best!]).toEqual([
      ...[0.4, expect.closeTo(0.4, 12), expect.closeTo(0.4, 12)],
    ]);
    for (const name of ['rho', 'vanna', 'volga', 'charm', 'veta'] as const)
      expect(found.greeks[name], name).toBeCloseTo(found.legs[0]![name]! - found.legs[1]![name]!, 12);
    const { rate, years } = await fitOf('MRX40', '2031-04-17');
    const curve = found.odds.find(({ basis }) => basis === 'curve')!;
    expect(curve.expected).toBeCloseTo(found.value! * Math.exp(rate * years) - found.entry, 5);
    expect(found.breakEvens).toHaveLength(1);
    expect(found.breakEvens[0]).toBeCloseTo(4300 + found.entry, 9);
    expect(found).toMatchObject({ unlimited: { profit: false, loss: false }, multiplier: 10 });
    expect(found.odds.map(({ basis }) => basis)).toEqual(['curve', 'own', 'level', 'index', 'realized', 'past']);
    for (const { zones } of found.odds) {
      expect(zones.reduce((sum, { probability }) => sum + probability!, 0)).toBeCloseTo(1, 9);
    }
    expect(found.curves).toHaveLength(4);
    expect(found.curves.at(-1)!.moment).toBe(found.horizon);
  });
  it('a scenario moves what it is worth and leaves what it costs; a point of its curve is the same', async () => {
    const scenario = { pricePercent: -0.03, volShift: 0.02, skewShift: -0.01, dynamics: 'moneyness' } as const;
    const still = await on('MRX40', vertical);
    const price = still.price * 0.97;
    const moved = await on('MRX40', vertical, { scenario, prices: [price], moments: [still.asof] });
    expect(moved.cost).toEqual(still.cost);
    expect(moved.value).not.toBeCloseTo(still.value!, 0);
    expect(moved.curves[0]!.points[0]!.pnl).toBeCloseTo(moved.value! - moved.entry, 9);
    expect(moved.curves[0]!.points[0]!.delta).toBeCloseTo(moved.greeks.delta!, 9);
  });
  it('American contracts are worth what the chain has them at', async () => {
    const contracts = await chainOf('KELQ', (await get('/underlyings/KELQ/chain', ChainResponse)).contracts[0]!.expiry);
    const quoted = contracts.filter(({ theory, mid }) => theory !== null && mid !== null);
    const [first, second] = [quoted[0]!, quoted.at(-1)!];
    const { legs, price } = await on(
      'KELQ',
      [first, second].map(({ expiry, settlement, strike, side }) => ({
        expiry,
        settlement,
        strike,
        side,
        quantity: 1,
      })),
    );
    expect(Math.abs(legs[0]!.theory! - first.theory!)).toBeLessThan(1e-5 * price);
    expect(Math.abs(legs[1]!.theory! - second.theory!)).toBeLessThan(1e-5 * price);
  });
  it('a collar counts shares by the multiplier', async () => {
    const { price, multiplier } = await on('CAIR', [{ underlying: true, quantity: 100 }]);
    const contracts = await chainOf('CAIR', '2031-05-15');
    const nearest = (side: string, level: number) =>
      contracts
        .filter((one) => one.side === side && one.mid !== null)
        .toSorted((a, b) => Math.abs(a.strike - level) - Math.abs(b.strike - level))[0]!;
    const [put, call] = [nearest('put', 0.95 * price), nearest('call', 1.05 * price)];
    const legOf = ({ expiry, strike, side }: typeof put, quantity: number) => ({ expiry, strike, side, quantity });
    const found = await on('CAIR', [{ underlying: true, quantity: 100 }, legOf(put, 1), legOf(call, -1)]);
    expect(multiplier).toBe(100);
    expect(found.entry).toBeCloseTo(price + put.mid! - call.mid!, 9);
    expect(found.maxLoss).toBeCloseTo(found.entry - put.strike, 9);
    expect(found.maxProfit).toBeCloseTo(call.strike - found.entry, 9);
    const [shares, bought, sold] = found.legs;
    expect(shares).toMatchObject({ underlying: true, quantity: 100, delta: 1 });
    expect(found.greeks.delta).toBeCloseTo(1 + bought!.delta! - sold!.delta!, 12);
    // A known dividend leaves the price, where the chain lets it pass as a yield.
    expect(bought!.delta).toBeCloseTo(put.delta!, 1);
  });
  it('a calendar of LMNQ over its results: what they carry leaves with them', async () => {
    const { contracts, price } = await get('/underlyings/LMNQ/chain', ChainResponse);
    const calls = contracts.filter(({ side, mid }) => side === 'call' && mid !== null);
    // The results come before the session of 21 March.
    const days = [...new Set(calls.map(({ expiry }) => expiry))].filter((day) => day > '2031-03-21');
    const strikes = (day: string) => new Set(calls.filter(({ expiry }) => expiry === day).map(({ strike }) => strike));
    const strike = [...strikes(days[0]!)]
      .filter((level) => strikes(days[3]!).has(level))
      .toSorted((a, b) => Math.abs(a - price!) - Math.abs(b - price!))[0]!;
    const legs = [
      { expiry: days[0]!, strike, side: 'call', quantity: -1 },
      { expiry: days[3]!, strike, side: 'call', quantity: 1 },
    ] as const;
    const [carried, even] = await Promise.all(
      [true, false].map((events) => on('LMNQ', [...legs], { scenario: { events }, fill: 'worst' })),
    );
    expect(carried!.breakEvens.length).toBeGreaterThan(0);
    // At the horizon the results are over, and so is their variance: what is left is worth less.
    expect(carried!.maxProfit!).toBeLessThan(even!.maxProfit! - 0.002 * price!);
    expect(carried!.notes.join()).toContain('announcements');
    expect(even!.notes.join()).not.toContain('announcements');
    expect(carried!.entry).toBeCloseTo(carried!.cost.worst!, 9);
  });
  it('another delivery of the root is a leg at its own quotes; what all of it does is by the price that is asked', async () => {
    const [near, far] = await Promise.all(
      ['AQFM31', 'AQFU31'].map((symbol) => get(`/underlyings/${symbol}/chain`, ChainResponse)),
    );
    const ratio = far!.price! / near!.price!;
    const pick = ({ contracts, price }: NonNullable<typeof near>) =>
      contracts
        .filter(({ side, expiry, mid }) => side === 'call' && expiry === '2031-05-15' && mid !== null)
        .toSorted((a, b) => Math.abs(a.strike - price!) - Math.abs(b.strike - price!))[0]!;
    const [sold, bought] = [pick(near!), pick(far!)];
    const legOf = ({ expiry, strike, side }: typeof sold, quantity: number, symbol?: string) => ({
      ...{ expiry, strike, side, quantity },
      ...(symbol && { symbol }),
    });
    const found = await on('AQFM31', [
      legOf(sold, -1),
      legOf(bought, 2, 'AQFU31'),
      { underlying: true, quantity: 1000, symbol: 'AQFU31' },
    ]);
    const [first, second, future] = found.legs;
    expect([second!.symbol, second!.bid, second!.ask]).toEqual(['AQFU31', bought.bid, bought.ask]);
    expect(Math.abs(second!.theory! - bought.theory!)).toBeLessThan(1e-5 * far!.price!);
    expect(second!.delta).toBeCloseTo(bought.delta!, 3);
    expect(future).toMatchObject({ underlying: true, quantity: 1000, symbol: 'AQFU31' });
    expect(future!.theory).toBeCloseTo(far!.price!, 9);
    expect(found.entry).toBeCloseTo(-sold.mid! + 2 * bought.mid! + far!.price!, 9);
    expect(found.value).toBeCloseTo(-first!.theory! + 2 * second!.theory! + far!.price!, 9);
    expect(found.greeks.delta).toBeCloseTo(-first!.delta! + ratio * (2 * second!.delta! + 1), 9);
    expect(found.notes.join()).toContain('equal returns');
    // Nothing of another root, and nothing where there is no root.
    expect(await refused('AQFM31', { legs: [legOf(sold, 1, 'WNHM31')] })).toMatchObject([{ path: 'legs.0.symbol' }]);
    expect(await refused('AQFM31', { legs: [{ ...legOf(bought, 1, 'AQFU31'), strike: 0.001 }] })).toMatchObject([
      { path: 'legs.0.strike' },
    ]);
  });
  it('says which leg it cannot have, and what there is instead', async () => {
    const [index] = await refused('MRX40', { legs: [{ underlying: true, quantity: 1 }] });
    expect(index).toMatchObject({
      path: 'legs.0.underlying',
      message: expect.stringMatching(/cannot be traded.*MERI/) as string,
    });
    const [strike] = await refused('MRX40', { legs: [{ ...vertical[0], strike: 4301 }] });
    expect(strike).toMatchObject({
      path: 'legs.0.strike',
      message: expect.stringContaining('the nearest is 4300') as string,
    });
    const [expiry] = await refused('MRX40', { legs: [vertical[1], { ...vertical[0], expiry: '2031-04-16' }] });
    expect(expiry).toMatchObject({
      path: 'legs.1.expiry',
      message: expect.stringContaining('the nearest is 2031-04-17') as string,
    });
    expect(await refused('MRX40', { legs: [{ ...vertical[0], symbol: 'MERI' }] })).toMatchObject([
      { path: 'legs.0.symbol' },
    ]);
    expect(await refused('MRX40', { legs: [{ quantity: 1, strike: 1, expiry: '2031-04-17' }] }, 400)).toMatchObject([
      { path: 'legs.0.side' },
    ]);
    const many = {
      legs: Array(12).fill(vertical[0]),
      prices: Array(900).fill(4000),
      moments: ['2031-03-20T12:00:00Z'],
    };
    expect(await refused('MRX40', many, 400)).toMatchObject([{ path: 'prices' }]);
    const twice = { legs: vertical, scenario: { price: 4000, pricePercent: 0.1 } };
    expect(await refused('MRX40', twice, 400)).toMatchObject([{ path: 'scenario.pricePercent' }]);
    await problemOf('/underlyings/NOBODY/structures/evaluate', 404, {
      method: 'POST',
      body: JSON.stringify({ legs: vertical }),
    });
  });
});
