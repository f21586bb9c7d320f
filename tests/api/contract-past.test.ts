import { describe, expect, it } from 'vitest';
import {
  ChainResponse,
  ContractPastResponse,
  EventsResponse,
  HistoryResponse,
  SnapshotsResponse,
} from '../../web/src/lib/api/schemas';
import { get, problemOf } from './client';

const past = (symbol: string, contracts: string, from: string, to: string, step = 'session') =>
  get(
    `/underlyings/${symbol}/contract-past?contracts=${contracts}&from=${from}T00:00:00Z&to=${to}T23:59:00Z&step=${step}`,
    ContractPastResponse,
  );

describe('contracts over time', () => {
  it('are what the chain has at each moment, and null where they are not held', async () => {
    const { moments, price, contracts } = await past(
      'MRX40',
      'c4300@2031-04-17,p4000@2031-04-17',
      '2031-01-02',
      '2031-03-13',
    );
    expect(contracts.map(({ side, strike }) => `${side} ${strike}`)).toEqual(['call 4300', 'put 4000']);
    for (const { bid, years } of contracts) {
      expect(bid).toHaveLength(moments.length);
      // A monthly expiry is listed seventy days before its end.
      expect(years[0]).toBeNull();
      expect(years.findIndex((value) => value !== null)).toBeGreaterThan(20);
    }
    for (const at of [moments.length - 1, moments.length - 10]) {
      const chain = await get(
        `/underlyings/MRX40/chain?asof=${moments[at]}&expiry=2031-04-17&basis=curve`,
        ChainResponse,
      );
      expect(price[at]).toBe(chain.price);
      const [expiry] = chain.expiries;
      const call = contracts[0]!;
      const row = chain.contracts.find(({ side, strike }) => side === 'call' && strike === 4300)!;
      expect([call.bid[at], call.ask[at]]).toEqual([row.bid, row.ask]);
      expect(call.vol[at]).toBeCloseTo(row.vol!, 10);
      expect(call.forward[at]).toBeCloseTo(expiry!.forward!, 8);
    }
  });
  it('end at what they settle at: the close of the bar of their day', async () => {
    const { moments, days, price, contracts } = await past('MRX40', 'c4100@2031-02-20', '2031-02-17', '2031-02-24');
    const { rows } = await get('/underlyings/MRX40/history?series=close', HistoryResponse);
    const close = rows.find(({ date }) => date === '2031-02-20')!['close'];
    const at = contracts[0]!.years.indexOf(0);
    expect(days[at]).toBe('2031-02-20');
    expect(price[at]).toBe(close);
    expect(contracts[0]!.forward[at]).toBe(close);
    // It is quoted to the session before; afterwards it is not.
    const { bid, years } = contracts[0]!;
    expect(days[bid.findLastIndex((value) => value !== null)]).toBe('2031-02-19');
    expect(years.slice(at + 1).every((value) => value === null)).toBe(true);
    expect([...moments].sort()).toEqual(moments);
  });
  it('know the cash that was paid between them, once', async () => {
    const { events } = await get('/underlyings/KELQ/events', EventsResponse);
    const paid = events.filter(
      ({ date, amount, kind }) => amount !== null && kind !== 'split' && date > '2030-06-03' && date <= '2031-03-13',
    );
    expect(paid.length).toBeGreaterThan(1);
    const { days, paid: told } = await past('KELQ', 'c10@2031-04-17', '2030-06-03', '2031-03-13');
    const found = told.flatMap((amount, i) => (amount === 0 ? [] : [[days[i], amount]]));
    expect(found).toEqual(paid.map(({ date, amount }) => [date, amount]));
  });
  it('come at every moment where that is asked for', async () => {
    const { snapshots } = await get('/underlyings/LMNQ/snapshots', SnapshotsResponse);
    const held = snapshots.filter(({ asof }) => asof >= '2031-03-10' && asof <= '2031-03-13T23:59:00Z');
    const told = await past('LMNQ', 'c100@2031-04-17', '2031-03-10', '2031-03-13', 'moment');
    expect(told.moments).toEqual(held.map(({ asof }) => asof));
  });
  it.each(['x4300@2031-04-17', 'c4300', 'c4300@2031-04-77', Array(13).fill('c4300@2031-04-17').join()])(
    'are refused where they are not named: %s',
    async (contracts) => {
      const query = `contracts=${contracts}&from=2031-03-01T00:00:00Z&to=2031-03-13T00:00:00Z`;
      const { errors } = await problemOf(`/underlyings/MRX40/contract-past?${query}`, 400);
      expect(errors![0]!).toMatchObject({ path: 'contracts' });
    },
  );
  it('of no underlying that is held are not found', async () => {
    await problemOf(
      '/underlyings/NOSUCH/contract-past?contracts=c1@2031-04-17&from=2031-03-01T00:00:00Z&to=2031-03-13T00:00:00Z',
      404,
    );
  });
});
