import { priceContract } from '@umwelt/core';
import { beforeAll, describe, expect, it } from 'vitest';
import {
  BorrowingsResponse,
  ChainResponse,
  OpenContractsResponse,
  SnapshotResponse,
  StructuresResponse,
  SurfaceResponse,
  TapeResponse,
} from '../../web/src/lib/api/schemas';
import { get, importBytes, importText, post, problemOf, request } from './client';

const ASOF = '2031-01-06T16:45:00.000Z';
const DAY = '2031-04-17';
const VOLS = { am: 0.2, pm: 0.3 } as const;

/** Quotes of a day's series, calls and puts at five strikes, by Black's formula without a rate. */
function seriesLines(symbol: string, settlement: 'am' | 'pm', openInterest: number): string[] {
  return [80, 90, 100, 110, 120].flatMap((strike) =>
    (['call', 'put'] as const).map((side) => {
      const terms = { model: 'black-76' as const, side, forward: 100, strike, years: 0.276, rate: 0 };
      const { price } = priceContract({ ...terms, vol: VOLS[settlement] });
      const quotes = [Math.max(0, price - 0.02).toFixed(4), (price + 0.02).toFixed(4)];
      return [ASOF, symbol, DAY, strike, side, ...quotes, 100, openInterest, settlement].join(',');
    }),
  );
}

const HEAD = 'asof,symbol,expiry,strike,side,bid,ask,underlying_price,open_interest,settlement';

beforeAll(async () => {
  await importText('symbol,name,kind,calendar\nTWICE,Settled twice,index,MRX\nMORN,Mornings only,index,MRX\n');
  const both = [...seriesLines('TWICE', 'am', 10), ...seriesLines('TWICE', 'pm', 20)];
  await importText([HEAD, ...both, ...seriesLines('MORN', 'am', 10), ''].join('\n'));
});

const legs = (settlement?: 'am' | 'pm') => [
  { expiry: DAY, strike: 100, side: 'call', quantity: 1, ...(settlement && { settlement }) },
];
const keep = async (symbol: string, settlement?: 'am' | 'pm') => {
  const { structures } = await post('/structures', { symbol, legs: legs(settlement) }, StructuresResponse);
  const kept = structures.at(-1)!;
  await request(`/structures/${kept.id}`, { method: 'DELETE' });
  return kept;
};

describe('two series of one day', () => {
  it('are two expiries of a chain, each with its own vols, and can be asked for alone', async () => {
    const chain = await get(`/underlyings/TWICE/chain?expiry=${DAY}`, ChainResponse);
    expect(chain.expiries.map(({ settlement }) => settlement)).toEqual(['am', 'pm']);
    expect(chain.contracts).toHaveLength(20);
    for (const settlement of ['am', 'pm'] as const) {
      const alone = await get(`/underlyings/TWICE/chain?expiry=${DAY}&settlement=${settlement}`, ChainResponse);
      expect(alone.contracts).toEqual(chain.contracts.filter((one) => one.settlement === settlement));
      // The morning comes six and a half hours sooner, which a quarter of a year hardly shows.
      expect(Math.abs(alone.expiries[0]!.atmVol! / VOLS[settlement] - 1)).toBeLessThan(0.02);
    }
    const { term } = await get('/underlyings/TWICE/surface', SurfaceResponse);
    expect(term.map(({ expiry, settlement }) => [expiry, settlement])).toEqual([
      [DAY, 'am'],
      [DAY, 'pm'],
    ]);
    await problemOf(`/underlyings/MORN/chain?expiry=${DAY}&settlement=pm`, 404);
    await problemOf(`/underlyings/TWICE/chain?expiry=${DAY}&settlement=noon`, 400);
  });

  it('a leg that does not say which is of the pm series, or of the only one of the day', async () => {
    const [said, unsaid, morning] = [await keep('TWICE', 'pm'), await keep('TWICE'), await keep('TWICE', 'am')];
    expect(unsaid.legs).toEqual(said.legs);
    expect(unsaid.now).toEqual(said.now);
    expect(morning.legs[0]!.settlement).toBe('am');
    // An at-the-money call is worth about as much as its vol is high.
    expect(said.now!.value! / morning.now!.value!).toBeCloseTo(VOLS.pm / VOLS.am, 1);
    expect((await keep('MORN')).legs[0]!.settlement).toBe('am');
    const body = JSON.stringify({ symbol: 'MORN', legs: legs('pm') });
    const { detail } = await problemOf('/structures', 422, { method: 'POST', body });
    expect(detail).toBe(`${DAY} is not listed at this moment`);
  });

  it('a verdict on a contract of one leaves the other alone; without a word it is of the pm series', async () => {
    const asideOf = ({ slices }: { slices: { fit: { settlement: string; aside: unknown[] } }[] }) =>
      Object.fromEntries(slices.map(({ fit }) => [fit.settlement, fit.aside.length]));
    const say = (verdict: string | null, settlement?: 'am') =>
      post(
        '/underlyings/TWICE/verdicts',
        { asof: ASOF, expiry: DAY, strike: 110, side: 'call', verdict, ...(settlement && { settlement }) },
        SnapshotResponse,
      );
    expect(asideOf(await say('aside'))).toEqual({ am: 0, pm: 1 });
    expect(asideOf(await say('aside', 'am'))).toEqual({ am: 1, pm: 1 });
    expect(asideOf(await say(null))).toEqual({ am: 1, pm: 0 });
    expect(asideOf(await say(null, 'am'))).toEqual({ am: 0, pm: 0 });
    // Of a day with one series alone it is of that.
    const body = { asof: ASOF, expiry: DAY, strike: 110, side: 'call' };
    const told = await post('/underlyings/MORN/verdicts', { ...body, verdict: 'aside' }, SnapshotResponse);
    expect(asideOf(told)).toEqual({ am: 1 });
    await post('/underlyings/MORN/verdicts', { ...body, verdict: null }, SnapshotResponse);
  });

  it('one can borrow the curve of the other, by its name', async () => {
    const at = { expiry: DAY, settlement: 'pm' };
    const borrow = (borrowing: object | null, version: number | null) =>
      post('/underlyings/TWICE/borrowings', { ...at, version, borrowing }, BorrowingsResponse);
    const { borrowings } = await borrow({ source: 'TWICE', sourceExpiry: `${DAY}am` }, null);
    expect(borrowings).toMatchObject([{ ...at, sourceExpiry: `${DAY}am` }]);
    const { slices } = await get('/underlyings/TWICE/snapshots/latest', SnapshotResponse);
    expect(slices[1]!.fit.borrowed).toMatchObject({ takenFrom: `${DAY}am` });
    expect(Math.abs(slices[1]!.fit.atmVol! - VOLS.am)).toBeLessThan(0.01);
    await borrow(null, 1);
    const body = JSON.stringify({ ...at, version: null, borrowing: { source: 'TWICE', sourceExpiry: DAY } });
    await problemOf('/underlyings/TWICE/borrowings', 400, { method: 'POST', body });
  });

  it('have open contracts of their own', async () => {
    const open = (query = '') => get(`/underlyings/TWICE/open-contracts?expiry=${DAY}${query}`, OpenContractsResponse);
    expect((await open()).strikes[0]).toMatchObject({ callOpenInterest: 20 });
    expect((await open('&settlement=am')).strikes[0]).toMatchObject({ callOpenInterest: 10 });
  });

  it('prints say which they are of, in files and on the tape', async () => {
    const rows = ['am', 'pm', ''].map(
      (settlement, i) => `2031-01-06T16:50:0${i}Z,TWICE,${DAY},100,C,5,1,${settlement},`,
    );
    const file = ['time,symbol,expiry,strike,side,price,size,settlement,group', ...rows, ''].join('\n');
    expect(await importText(file)).toMatchObject({ what: 'prints', counts: { added: 3 } });
    expect(await importText(file)).toMatchObject({ counts: { added: 0, unchanged: 3 } });
    const { prints } = await get('/underlyings/TWICE/prints?to=2031-01-06T17:00:00Z', TapeResponse);
    expect(prints.map(({ settlement }) => settlement)).toEqual(['pm', 'pm', 'am']);
    expect(prints[1]!.theory).toBe(prints[0]!.theory);
    expect(prints[2]!.theory! / prints[0]!.theory!).toBeCloseTo(VOLS.am / VOLS.pm, 1);
    const exported = await (await request('/exports/prints.csv?symbol=TWICE')).text();
    expect(exported.split('\r\n').map((line) => line.split(',').slice(7, 8)[0])).toEqual(
      expect.arrayContaining(['settlement', 'am', 'pm', '']),
    );
  });

  it('positions say which they are of, come out as they went in, and one in the other is another', async () => {
    const head = 'symbol,expiry,strike,side,settlement,quantity,price,opened,tag';
    const row = (settlement: string) => `TWICE,${DAY},100,call,${settlement},2,5,2031-01-06T16:50:00Z,twice`;
    const file = [head, row('am'), row('pm'), row(''), 'TWICE,,,,,100,99,2031-01-06T16:50:00Z,twice', ''].join('\n');
    expect(await importText(file)).toMatchObject({ what: 'positions', counts: { added: 4 } });
    expect(await importText(file)).toMatchObject({ counts: { added: 0, unchanged: 4 } });
    const exported = await (await request('/exports/positions.csv?symbol=TWICE')).text();
    const [names, ...lines] = exported.trim().split('\r\n');
    const at = names!.split(',').indexOf('settlement');
    expect(lines.map((line) => line.split(',')[at]).sort()).toEqual(['', '', 'am', 'pm']);
    const refused = await importBytes([head, row('noon'), ''].join('\n'));
    expect(refused).toMatchObject({ status: 'refused', errors: [{ row: 2, column: 'settlement', value: 'noon' }] });
  });
});
