import { beforeAll, describe, expect, it } from 'vitest';
import {
  BookedResponse,
  BookRiskResponse,
  BookScenarioResponse,
  BooksResponse,
  ChainResponse,
  ChangesResponse,
  ExplainResponse,
  MarketEvaluateResponse,
  PositionResponse,
  PositionsResponse,
  ProfitsResponse,
  ReplayResponse,
  WorthResponse,
} from '../../web/src/lib/api/schemas';
import { get, importBytes, importText, post, problemOf, request } from './client';

const ASOF = '2031-03-13T16:45:00.000Z';
const GHOST = '2031-02-27T16:45:00.000Z';
const at = (moment = ASOF) => `asof=${encodeURIComponent(moment)}`;

/** The book of the demo. */
let harbour: number;
/** A book of these tests. */
let book: number;
const bookNamed = async (name: string) => (await get('/books', BooksResponse)).books.find((one) => one.name === name);
const body = (value: unknown, method = 'POST') => ({ method, body: JSON.stringify(value) });
const worthOf = (id: number, query = at()) => get(`/books/${id}/worth?${query}`, WorthResponse);

beforeAll(async () => {
  harbour = (await bookNamed('Harbour'))!.id;
  book = (await post('/books', { name: `Tests ${Date.now()}`, currency: 'ICR' }, BookedResponse)).id;
});

const option = (expiry: string, strike: number, side: 'call' | 'put') => ({ expiry, strike, side });
const fill = (time: string, leg: object, quantity: number, price: number, more: object = {}) => ({
  ...{ time, leg, quantity, price, ...more },
});
const open = (symbol: string, name: string, fills: readonly object[]) =>
  post('/positions', { book, symbol, name, fills }, BookedResponse);

describe("the demo's book", () => {
  it('has eight positions over five families that are open, and one that was over in a day', async () => {
    const { positions, legs } = await worthOf(harbour);
    expect(positions.filter(({ closed }) => closed === null)).toHaveLength(8);
    expect(new Set(legs.map(({ family }) => family)).size).toBe(5);
    const straddle = positions.find(({ name }) => name === 'MRX40 decision straddle')!;
    expect(straddle.closed).toBe('2030-12-19T16:45:00.000Z');
    // What it was sold for less what it was bought back for, × 10 × 10, less a fee of 0.75 a contract.
    const { fills } = await get(`/positions/${straddle.id}`, PositionResponse);
    const paid = fills.reduce((sum, { quantity, price }) => sum + quantity * price * 10, 0);
    expect(straddle.profit.sinceEntry).toBeCloseTo(-paid - 40 * 0.75, 6);
    // Vol fell by the hour: the seller gained.
    expect(straddle.profit.realized).toBeGreaterThan(1000);
  });
  it('is worth what the chain says, by hand', async () => {
    const { positions, legs } = await worthOf(harbour);
    const sold = positions.find(({ name }) => name === 'MRX40 sold strangle')!;
    const own = legs.filter(({ position }) => position === sold.id);
    const chain = await get(`/underlyings/MRX40/chain?expiry=2031-04-17&${at()}`, ChainResponse);
    let value = 0;
    for (const leg of own) {
      const row = chain.contracts.find(({ strike, side }) => strike === leg.strike && side === leg.side)!;
      expect(leg.mid).toBeCloseTo(0.5 * (row.bid! + row.ask!), 9);
      expect(leg.theory).toBeCloseTo(row.theory!, 6);
      expect(leg.delta).toBeCloseTo(row.delta!, 6);
      value += leg.quantity * 10 * leg.mid!;
    }
    expect(sold.value).toBeCloseTo(value, 6);
    expect(sold.lots).toBe(-12);
    expect(sold.profit.open).toBeCloseTo(12 * 10 * (sold.entry! - sold.now!), 6);
  });
  it('closing side and curve are worth less and other than the mid', async () => {
    const [mid, closing, curve] = await Promise.all(
      (['mid', 'closing', 'curve'] as const).map((by) => worthOf(harbour, `${at()}&by=${by}`)),
    );
    const total = ({ positions }: Awaited<ReturnType<typeof worthOf>>) =>
      positions.reduce((sum, { value }) => sum + value!, 0);
    expect(total(closing!)).toBeLessThan(total(mid!));
    expect(total(curve!)).not.toBe(total(mid!));
  });
  it('shows what it was at any moment of before', async () => {
    const { positions } = await worthOf(harbour, at('2031-02-14T20:00:00Z'));
    const openThen = positions.filter(({ opened, closed }) => opened !== null && closed === null);
    expect(openThen.map(({ name }) => name).sort()).toEqual([
      'AQFM31 call vertical',
      'CAIR sold strangle',
      'MRX40 sold strangle',
    ]);
  });
  it('cash is what was paid in with all that flowed, and earns the rate', async () => {
    const { cash, interest, positions } = await worthOf(harbour);
    const flowed = positions.reduce((sum, { value, profit: { sinceEntry } }) => sum + sinceEntry! - value!, 0);
    expect(cash).toBeCloseTo(500_000 + flowed, 4);
    // About a hundred days at four per cent of half a million.
    expect(interest).toBeGreaterThan(4000);
    expect(interest).toBeLessThan(8000);
  });
});

describe('risk', () => {
  const risk = (query: string) => get(`/books/${harbour}/risk?${at()}&${query}`, BookRiskResponse);
  it('sums are the same at each level', async () => {
    const levels = await Promise.all(
      (['family', 'underlying', 'expiry', 'strike'] as const).map((by) => risk(`by=${by}`)),
    );
    for (const { rows, total } of levels)
      for (const name of ['value', 'delta', 'gamma', 'vega', 'vegaRoot', 'theta', 'vanna', 'volga'] as const) {
        expect(total[name]).toBeCloseTo(levels[0]!.total[name], 6);
        expect(rows.reduce((sum, row) => sum + row[name], 0)).toBeCloseTo(total[name], 6);
      }
    expect(levels.map(({ rows }) => rows.length)).toEqual([5, 7, 8, 22].map(() => expect.any(Number) as number));
  });
  it('of the fund in terms of the index: delta × a tenth of its price, gamma × a hundredth', async () => {
    const [own, inIndex, { legs }] = await Promise.all([
      risk('by=underlying'),
      risk('by=underlying&in=MRX40'),
      worthOf(harbour),
    ]);
    const rowOf = ({ rows }: typeof own, symbol: string) => rows.find((row) => row.symbol === symbol)!;
    const fund = legs.filter(({ symbol }) => symbol === 'MERI');
    const index = legs.find(({ symbol }) => symbol === 'MRX40')!.price!;
    const units = fund.reduce((sum, { quantity, delta }) => sum + quantity * 100 * delta!, 0);
    const bends = fund.reduce((sum, { quantity, gamma }) => sum + quantity * 100 * gamma!, 0);
    expect(rowOf(inIndex, 'MERI').delta).toBeCloseTo(units * 0.1 * index, 4);
    expect(rowOf(inIndex, 'MERI').gamma).toBeCloseTo((bends * (0.1 * index) ** 2) / 100, 4);
    expect(rowOf(own, 'MERI').delta).toBeCloseTo(units * fund[0]!.price!, 4);
    // Others stay in their own.
    expect(rowOf(inIndex, 'CAIR').delta).toBeCloseTo(rowOf(own, 'CAIR').delta, 6);
  });
  it('betas to another underlying are those of returns', async () => {
    const { legs } = await worthOf(harbour, `${at()}&beta=MRX40`);
    const betaOf = (symbol: string) => legs.find((leg) => leg.symbol === symbol)!.beta!;
    expect(betaOf('MRX40')).toBe(1);
    expect(betaOf('MERI')).toBeGreaterThan(0.95);
    expect(betaOf('MERI')).toBeLessThan(1.05);
    expect(betaOf('CAIR')).not.toBe(1);
  });
});

describe('scenarios', () => {
  const asked = { asof: ASOF, moves: [-0.05, 0, 0.05], volShifts: [0.04, 0] };
  it('nothing moved now is nothing; a cell is what the legs are worth there less what they are now', async () => {
    const found = await post(`/books/${harbour}/scenario`, asked, BookScenarioResponse);
    expect(found.pnl[1]![1]).toBe(0);
    const { positions } = await worthOf(harbour);
    const sold = positions.find(({ name }) => name === 'MRX40 sold strangle')!;
    const { legs } = await get(`/positions/${sold.id}?${at()}`, PositionResponse);
    const valueAt = async (scenario: object) => {
      const given = legs.map(({ expiry, strike, side, quantity }) => ({ expiry, strike, side, quantity }));
      const path = '/underlyings/MRX40/structures/evaluate';
      return (await post(path, { asof: ASOF, legs: given, scenario }, MarketEvaluateResponse)).value;
    };
    const [there, now] = await Promise.all([valueAt({ pricePercent: -0.05, volShift: 0.04 }), valueAt({})]);
    const own = found.positions.find(({ id }) => id === sold.id)!;
    expect(own.pnl[0]![0]).toBeCloseTo(10 * (there! - now!), 4);
    // Positions and families sum to the cells.
    for (const [i, row] of found.pnl.entries())
      for (const [j, pnl] of row.entries()) {
        expect(found.positions.reduce((sum, one) => sum + one.pnl[i]![j]!, 0)).toBeCloseTo(pnl, 6);
        expect(found.families.reduce((sum, one) => sum + one.pnl[i]![j]!, 0)).toBeCloseTo(pnl, 6);
      }
    expect(found.worst.pnl).toBe(Math.min(...found.pnl.flat()));
    expect(found.apart).toBeLessThanOrEqual(found.worst.pnl);
  });
  it('days ahead, and vols that go along with the price', async () => {
    const later = await post(
      `/books/${harbour}/scenario`,
      { ...asked, at: '2031-03-20T16:45:00Z' },
      BookScenarioResponse,
    );
    expect(later.pnl[1]![1]).not.toBe(0);
    const along = await post(`/books/${harbour}/scenario`, { ...asked, volScale: 'along' }, BookScenarioResponse);
    const plain = await post(`/books/${harbour}/scenario`, { ...asked, volScale: 'root' }, BookScenarioResponse);
    expect(along.pnl[1]![1]).toBe(0);
    expect(along.pnl[1]![0]).not.toBe(plain.pnl[1]![0]);
  });
});

describe('what brought a change', () => {
  it('parts and the rest are what the book changed by since the ghost, by positions too', async () => {
    const query = `from=${encodeURIComponent(GHOST)}&to=${encodeURIComponent(ASOF)}`;
    const { positions } = await worthOf(harbour, `${at()}&ghost=${encodeURIComponent(GHOST)}`);
    for (const method of ['turn', 'averaged']) {
      const found = await get(`/books/${harbour}/explain?${query}&method=${method}`, ExplainResponse);
      const sum = found.parts.reduce((all, { inTurn }) => all + inTurn, found.rest);
      expect(Math.abs(sum - found.change)).toBeLessThan(1e-6);
      const greeks = found.parts.reduce(
        (all, { byGreeks }) => all + byGreeks,
        found.byGreeks.cross + found.byGreeks.rest,
      );
      expect(Math.abs(greeks - found.change)).toBeLessThan(1e-6);
      // Of each family by its legs, in both ways.
      const byLegs = found.legs.reduce((all, leg) => all + leg.change, 0);
      expect(byLegs).toBeCloseTo(found.change, 6);
      for (const leg of found.legs)
        expect(Object.values(leg.byGreeks).reduce((all, one) => all + one, leg.cross)).toBeCloseTo(leg.change, 6);
      for (const { id, change } of found.positions)
        expect(change).toBeCloseTo(positions.find((one) => one.id === id)!.profit.sinceGhost!, 4);
    }
  });
  it('day by day a position sums to the whole', async () => {
    const { positions } = await worthOf(harbour);
    const sold = positions.find(({ name }) => name === 'CAIR sold strangle')!;
    const query = `from=2031-01-21T16:44:00Z&to=${encodeURIComponent(ASOF)}&step=session`;
    const { stretches, change } = await get(`/positions/${sold.id}/explain?${query}`, ExplainResponse);
    expect(stretches.length).toBeGreaterThan(30);
    expect(stretches.reduce((sum, one) => sum + one.change, 0)).toBeCloseTo(change, 6);
    expect(change).toBeCloseTo(sold.profit.sinceEntry!, 4);
    // It was rolled on 5 March: what that cost is under fills.
    const rolled = stretches.find(({ to }) => to.startsWith('2031-03-05'))!;
    expect(rolled.parts.fills).toBeLessThan(-100);
  });
  it('on the day of the decision the announcement did it', async () => {
    const straddle = (await worthOf(harbour)).positions.find(({ name }) => name === 'MRX40 decision straddle')!;
    const query = 'from=2030-12-19T10:46:00Z&to=2030-12-19T16:45:00Z';
    const { parts } = await get(`/positions/${straddle.id}/explain?${query}`, ExplainResponse);
    const partOf = (name: string) => parts.find((one) => one.name === name)!.inTurn;
    expect(partOf('events') + partOf('level')).toBeGreaterThan(1500);
    expect(partOf('events')).toBeGreaterThan(Math.abs(partOf('time')));
  });
});

describe('a position lived through again', () => {
  it('quarter by quarter: profit is value and what flowed, and ends with its closing', async () => {
    const straddle = (await worthOf(harbour)).positions.find(({ name }) => name === 'MRX40 decision straddle')!;
    const { rows, entry, legs } = await get(`/positions/${straddle.id}/replay?step=moment`, ReplayResponse);
    expect(legs).toHaveLength(2);
    expect(rows[0]!.asof).toBe('2030-12-19T10:45:00.000Z');
    expect(entry!.deviation).toBeGreaterThan(50);
    const last = rows.at(-1)!;
    expect(last.profit).toBeCloseTo(straddle.profit.sinceEntry!, 6);
    for (const row of rows) expect(row.legs.reduce((sum, { profit }) => sum + profit!, 0)).toBeCloseTo(row.profit!, 6);
    const before = rows.find(({ asof }) => asof === '2030-12-19T14:45:00.000Z')!;
    const after = rows.find(({ asof }) => asof === '2030-12-19T15:15:00.000Z')!;
    expect(after.vol!).toBeLessThan(before.vol! - 0.02);
  });
  it('profits by day end at what is in view', async () => {
    const { positions } = await worthOf(harbour);
    const ids = positions.map(({ id }) => id).join();
    const found = await get(`/books/${harbour}/profits?ids=${ids}&to=${encodeURIComponent(ASOF)}`, ProfitsResponse);
    for (const { id, profit } of found.positions)
      expect(profit.at(-1)).toBeCloseTo(positions.find((one) => one.id === id)!.profit.sinceEntry!, 4);
  });
});

describe('booking', () => {
  it('a position with its trades, adjusted, closed, undone and made again, each in the journal', async () => {
    const { id } = await open('CAIR', 'a strangle', [
      fill('2031-03-10T16:00:00Z', option('2031-04-17', 105, 'put'), -2, 1.5, { fee: 1 }),
      fill('2031-03-10T16:00:00Z', option('2031-04-17', 120, 'call'), -2, 1.25),
    ]);
    const position = () => get(`/positions/${id}?${at()}`, PositionResponse);
    expect(await position()).toMatchObject({ name: 'a strangle', lots: -2, entry: 2.75, closed: null });
    const closing = [
      fill('2031-03-12T16:00:00Z', option('2031-04-17', 105, 'put'), 2, 1.1, { closes: true }),
      fill('2031-03-12T16:00:00Z', option('2031-04-17', 120, 'call'), 2, 0.9, { closes: true }),
    ];
    await post(`/positions/${id}/fills`, { fills: closing, words: 'closed for the weekend' }, BookedResponse);
    // (2.75 − 2) × 2 × 100 − 1
    expect((await position()).profit).toMatchObject({ realized: 150, fees: 1, sinceEntry: 149 });
    expect((await post(`/books/${book}/undo`, undefined, BookedResponse)).words).toBe('closed for the weekend');
    expect((await position()).lots).toBe(-2);
    await post(`/books/${book}/redo`, undefined, BookedResponse);
    expect((await position()).closed).toBe('2031-03-12T16:00:00.000Z');
    const { changes } = await get(`/books/${book}/changes`, ChangesResponse);
    expect(changes.slice(0, 2).map(({ words, undone }) => [words, undone])).toEqual([
      ['closed for the weekend', false],
      ['a strangle was opened', false],
    ]);
  });
  it('what cannot be is refused with its place, and nothing of it is booked', async () => {
    const before = (await worthOf(book)).positions.length;
    const refused = async (trade: object, symbol = 'CAIR') =>
      (await problemOf('/positions', 422, body({ book, symbol, name: 'no', fills: [trade] }))).detail;
    const monday = '2031-03-10T16:00:00Z';
    expect(await refused(fill(monday, option('2031-04-17', 105.5, 'put'), 1, 1))).toBe(
      'fills.0.leg.strike: 2031-04-17 105.5 put is not listed on 2031-03-10',
    );
    expect(await refused(fill('2031-03-08T16:00:00Z', option('2031-04-17', 105, 'put'), 1, 1))).toBe(
      'fills.0.time: 2031-03-08 is no session of the exchange',
    );
    expect(await refused(fill(monday, option('2031-02-20', 105, 'put'), 1, 1))).toContain('is after the expiry');
    expect(await refused(fill(monday, { underlying: true }, 1, 1), 'MRX40')).toContain('is an index');
    expect(await refused(fill(monday, option('2031-04-17', 105, 'put'), 1, 1), 'NOBODY')).toContain(
      'no known underlying',
    );
    // Before it was listed.
    expect(await refused(fill('2031-01-06T16:00:00Z', option('2031-04-17', 105, 'put'), 1, 1))).toContain(
      'not listed on',
    );
    expect((await worthOf(book)).positions).toHaveLength(before);
    await problemOf(
      '/positions',
      400,
      body({ book, symbol: 'CAIR', name: 'no', fills: [fill(monday, { expiry: '2031-04-17' }, 0, -1)] }),
    );
    await problemOf('/positions', 404, body({ book: 1_999_999, symbol: 'CAIR', name: 'no' }));
  });
  it('no more is closed or assigned than is open, and all legs of it or none', async () => {
    const leg = option('2031-04-17', 110, 'put');
    const { id } = await open('CAIR', 'two puts', [fill('2031-03-10T16:00:00Z', leg, -2, 2)]);
    const path = `/positions/${id}/fills`;
    const refused = await problemOf(
      path,
      422,
      body({
        fills: [
          fill('2031-03-11T16:00:00Z', leg, 1, 2, { closes: true }),
          fill('2031-03-11T16:00:00Z', leg, 2, 2, { closes: true }),
        ],
      }),
    );
    expect(refused.detail).toBe('fills.1.quantity: 2 is beyond what is open: -1 of CAIR 2031-04-17 110 put');
    expect((await get(`/positions/${id}?${at()}`, PositionResponse)).lots).toBe(-2);
    const early = [
      fill('2031-03-11T16:00:00Z', leg, 2, 0, { assigned: true }),
      fill('2031-03-11T16:00:00Z', { underlying: true }, 200, 110),
    ];
    await post(path, { fills: early, words: 'assigned' }, BookedResponse);
    const { legs, profit } = await get(`/positions/${id}?${at()}`, PositionResponse);
    expect(legs.map(({ quantity, strike }) => [quantity, strike])).toEqual([
      [0, 110],
      [200, null],
    ]);
    const price = legs[1]!.price!;
    // 2 × 100 × 2 taken in, and the shares are worth what they are.
    expect(profit.sinceEntry).toBeCloseTo(400 + 200 * (price - 110), 6);
  });
  it('a sold put deep in the money is warned of: its interest is more than its time value', async () => {
    const chain = await get(`/underlyings/CAIR/chain?expiry=2031-04-17&${at()}`, ChainResponse);
    const puts = chain.contracts.filter(({ side, bid, ask }) => side === 'put' && bid! > 0 && ask! > 0);
    const deep = puts.reduce((most, one) => (one.strike > most.strike ? one : most));
    const far = puts.reduce((least, one) => (one.strike < least.strike ? one : least));
    const { id } = await open('CAIR', 'deep', [
      fill(ASOF, option('2031-04-17', deep.strike, 'put'), -1, deep.bid!),
      fill(ASOF, option('2031-04-17', far.strike, 'put'), -1, far.bid!),
    ]);
    const own = (await worthOf(book)).warnings.filter(({ position }) => position === id);
    expect(own).toHaveLength(1);
    expect(own[0]!.words).toContain(`the sold ${deep.strike} put of 2031-04-17 on CAIR may be assigned early`);
    const interest = Number(/interest of ([\d.]+)/.exec(own[0]!.words)![1]);
    // A strike at some four per cent over five weeks.
    expect(interest / deep.strike).toBeGreaterThan(0.002);
    expect(interest / deep.strike).toBeLessThan(0.006);
  });
  it('expires at the close of its day', async () => {
    const leg = option('2031-03-06', 4100, 'put');
    const { id } = await open('MRX40', 'weekly', [fill('2031-02-27T16:45:00Z', leg, -3, 20)]);
    const before = await get(`/positions/${id}?${at('2031-03-06T16:45:00Z')}`, PositionResponse);
    expect(before.closed).toBeNull();
    const after = await get(`/positions/${id}?${at('2031-03-07T16:45:00Z')}`, PositionResponse);
    const bars = await (await request('/underlyings/MRX40/history?from=2031-03-06&to=2031-03-06')).json();
    const row = JSON.stringify(bars);
    const close = Number(/"close":\[?([\d.]+)/.exec(row)?.[1]);
    expect(close).toBeGreaterThan(3000);
    expect(after.profit.realized).toBeCloseTo(30 * (20 - Math.max(0, 4100 - close)), 6);
    expect(after.closed).not.toBeNull();
  });
  it('an expiry without a price is asked for, and told when it is said', async () => {
    // Expires today, whose bar is not there yet.
    const { positions } = await worthOf(book);
    const chain = await get(`/underlyings/REFS/chain?${at('2031-03-12T17:00:00Z')}`, ChainResponse);
    const { strike } = chain.contracts.find(({ expiry, side }) => expiry === '2031-03-13' && side === 'call')!;
    const { id } = await open('REFS', 'of the day', [
      fill('2031-03-12T16:45:00Z', option('2031-03-13', strike, 'call'), 1, 0.5),
    ]);
    const later = () => get(`/positions/${id}?${at('2031-03-14T10:00:00Z')}`, PositionResponse);
    const waiting = await later();
    expect(waiting.legs[0]!.missing).toContain('the price that it settled at is not known');
    expect(waiting.profit.sinceEntry).toBeNull();
    const said = { symbol: 'REFS', expiry: '2031-03-13', settlement: 'pm', price: strike + 2 };
    expect((await request('/settlements', body(said, 'PUT'))).status).toBe(200);
    expect((await later()).profit.realized).toBeCloseTo(150, 9);
    expect(positions.length).toBeGreaterThan(0);
  });
  it('a split on the way keeps what it is worth', async () => {
    // GYRB was split two for one on 9 September.
    const then = '2030-09-06T15:45:00Z';
    const chain = await get(`/underlyings/GYRB/chain?${at(then)}`, ChainResponse);
    const far = chain.contracts.filter(({ expiry, side, bid }) => expiry > '2030-10-01' && side === 'call' && bid! > 1);
    const { expiry, strike, bid, ask } = far[far.length >> 1]!;
    const mid = 0.5 * (bid! + ask!);
    const { id } = await open('GYRB', 'through a split', [
      fill(chain.asof, option(expiry, strike, 'call'), 3, Number(mid.toFixed(4))),
    ]);
    const after = await get(`/positions/${id}?${at('2030-09-10T17:00:00Z')}`, PositionResponse);
    expect(after.legs[0]).toMatchObject({ quantity: 6, strike: strike / 2 });
    expect(after.legs[0]!.missing).toBeNull();
    expect(after.entry).toBeCloseTo(mid / 2, 4);
  });
  it('whoever has seen an older version is told, and names are taken once', async () => {
    const { id } = await open('CAIR', 'named', []);
    const path = `/positions/${id}`;
    expect((await request(path, body({ version: 1, note: 'mine' }, 'PUT'))).status).toBe(200);
    const late = await problemOf(path, 409, body({ version: 1, note: 'theirs' }, 'PUT'));
    expect(late.title).toBe('Changed meanwhile');
    expect((await open('CAIR', 'named', [])).words).toBe('named 2 was opened');
    const { books } = await get('/books', BooksResponse);
    const { name } = books.find((one) => one.id === book)!;
    await problemOf('/books', 422, body({ name, currency: 'ICR' }));
  });
  it('a book that was deleted comes back with all that was in it', async () => {
    const { id } = await post('/books', { name: `Gone ${Date.now()}`, currency: 'LUN' }, BookedResponse);
    const trade = fill('2031-03-10T16:00:00Z', option('2031-04-17', 105, 'put'), -2, 1.5);
    await post('/positions', { book: id, symbol: 'CAIR', name: 'kept', fills: [trade] }, BookedResponse);
    // Held in crowns, told in lunmarks.
    const foreign = await worthOf(id);
    expect(foreign.apart).toEqual([]);
    expect(foreign.legs[0]!.exchange).toBeCloseTo(0.84, 1);
    expect((await request(`/books/${id}`, { method: 'DELETE' })).status).toBe(200);
    await problemOf(`/books/${id}/worth`, 404);
    await post(`/books/${id}/undo`, undefined, BookedResponse);
    expect((await worthOf(id)).positions).toMatchObject([{ name: 'kept' }]);
    await request(`/books/${id}`, { method: 'DELETE' });
  });
  it('two at once are booked one after the other', async () => {
    const made = await Promise.all(Array.from({ length: 6 }, () => open('CAIR', 'at once', [])));
    expect(new Set(made.map(({ words }) => words)).size).toBe(6);
    expect(new Set(made.map(({ id }) => id)).size).toBe(6);
  });
});

describe('files', () => {
  const name = `Filed ${Date.now()}`;
  const lines = [
    'time,book,position,symbol,expiry,strike,side,quantity,price,fee,tag',
    `2031-03-10T15:45,${name},covered,CAIR,,,,200,112.25,,core`,
    `2031-03-10T15:45,${name},covered,CAIR,2031-04-17,120,C,-2,1.3512345678,1.5,`,
    `2031-03-10T15:45,${name},covered,CAIR,2031-04-17,120,C,-2,1.3512345678,1.5,`,
  ];
  const text = `${lines.join('\n')}\n`;

  it('of fills come in once, make what they name, and go out as they came', async () => {
    expect(await importText(text)).toMatchObject({ what: 'fills', status: 'done', counts: { added: 3 } });
    expect(await importText(text)).toMatchObject({ counts: { added: 0, unchanged: 3 } });
    const made = (await bookNamed(name))!;
    expect(made).toMatchObject({ currency: 'ICR', positions: 1, undo: '3 fills of a file' });
    const { legs } = await worthOf(made.id);
    expect(legs.map(({ quantity, entry }) => [quantity, entry])).toEqual([
      [200, 112.25],
      [-4, 1.3512345678],
    ]);
    const exported = await (await request('/exports/fills.csv?symbol=CAIR')).text();
    const own = exported.split(/\r?\n/).filter((line) => line.includes(name));
    expect(own).toHaveLength(3);
    expect(await importText([exported.split(/\r?\n/)[0]!, ...own, ''].join('\n'))).toMatchObject({
      counts: { added: 0, unchanged: 3 },
    });
    // Lots of the same trades are known, too.
    const lots = await (await request('/exports/positions.csv?symbol=CAIR')).text();
    expect((await importText(lots)).counts.added).toBe(0);
  });
  it('a bad row is told with its column, and nothing comes in until that is seen', async () => {
    const bad = `${lines[0]}\n2031-03-10T15:45,${name},x,CAIR,2031-04-17,120,C,0,1,,\n2031-03-10T15:45,${name},x,CAIR,2031-04-17,120,Q,1,1,,\n`;
    const record = await importBytes(bad);
    expect(record).toMatchObject({ status: 'refused', badRows: 2 });
    expect(record.errors.map(({ column, reason }) => [column, reason])).toEqual([
      ['quantity', 'is zero'],
      ['side', expect.stringContaining('must be one of') as string],
    ]);
  });
  it('an import of fills is taken back with what it has made', async () => {
    const other = `Back ${Date.now()}`;
    const { id } = await importText(text.replaceAll(name, other));
    expect(await bookNamed(other)).toBeDefined();
    expect((await request(`/imports/${id}/undo`, { method: 'POST' })).status).toBeLessThan(300);
    await expect.poll(() => bookNamed(other)).toBeUndefined();
    // Undone in the book it is the same.
    await importText(text.replaceAll(name, other));
    const again = (await bookNamed(other))!;
    await post(`/books/${again.id}/undo`, undefined, BookedResponse);
    expect(await bookNamed(other)).toBeUndefined();
  });
  it('of settlements stand in place of the bars', async () => {
    const leg = option('2031-03-06', 110, 'put');
    const { id } = await open('MRX40', 'settled by hand', [
      fill('2031-02-27T16:45:00Z', { ...leg, strike: 4125 }, 1, 5),
    ]);
    const record = await importText('symbol,expiry,settlement,price\nMRX40,2031-03-06,pm,4000\n');
    expect(record).toMatchObject({ what: 'settlements', status: 'done' });
    const told = () => get(`/positions/${id}?${at()}`, PositionResponse);
    expect((await told()).profit.realized).toBeCloseTo(10 * (125 - 5), 9);
    await request(`/imports/${record.id}/undo`, { method: 'POST' });
    await expect.poll(async () => (await told()).profit.realized).not.toBe(1200);
  });
  it('positions and risk come as tables, too', async () => {
    const csv = await (await request(`/positions?book=${harbour}&format=csv&${at()}`)).text();
    expect(csv.split('\n')[0]).toContain('profit_sinceEntry');
    const risk = await (await request(`/books/${harbour}/risk?by=expiry&format=csv&${at()}`)).text();
    expect(risk.split('\n')[0]).toContain('vegaRoot');
    expect(await get(`/positions?book=${harbour}&${at()}`, PositionsResponse)).toMatchObject({
      positions: expect.any(Array) as unknown[],
    });
  });
});
