import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { closeVol, expiryClass, isSession, sessionsBetween } from '@umwelt/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { inNewTerms } from './adjust';
import { chainsOf, isTraded, snapshotOf } from './chains';
import { DEMO_FILES, writeChain, writeRest, writeTables } from './files';
import { World } from './market';
import { LAST_QUARTER, sessionDays } from './path';
import { printsOf } from './prints';
import { contractOf, Listing, OpenInterest, tradedShare } from './listing';
import { quotesAt, type Quote } from './quotes';
import { Random, uniformAt, uniformOf } from './random';
import { expiriesAt, momentOf, smileOf, volAt, type Smile } from './smile';
import { ROOTS, UNDERLYINGS } from './underlyings';
import { CALENDAR, CLOCK, QUARTERS, SELL_OFF, type UnderlyingSpec } from './world';

const days = sessionDays();
const world = new World();
const specOf = (symbol: string) => UNDERLYINGS.find((spec) => spec.symbol === symbol)!;
const pathOf = (symbol: string) => world.path(symbol);
const lastOf = (symbol: string) => pathOf(symbol).at(-1)!;
const TRADING = { stir: 1, ofSession: 1, interest: new OpenInterest() };
/** The chain of the last moment, as it would be after a move of one deviation. */
const chainOf = (spec: UnderlyingSpec, ofSession = 1) => {
  const moment = momentAt(spec.symbol);
  return quotesAt(new Listing(spec, moment), moment, { ...TRADING, ofSession });
};
const momentAt = (symbol: string, at = -1) => momentOf(pathOf(symbol).at(at)!, pathOf(symbol).at(at - 1)!);

const average = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
const deviation = (values: readonly number[]) => {
  const mean = average(values);
  return Math.sqrt(average(values.map((value) => (value - mean) ** 2)));
};
const correlation = (x: readonly number[], y: readonly number[]) => {
  const [mx, my] = [average(x), average(y)];
  return average(x.map((value, i) => (value - mx) * (y[i]! - my))) / deviation(x) / deviation(y);
};

describe('random', () => {
  it('is the same for the same seed, spread evenly, and normal', () => {
    const draw = (seed: string) =>
      Array.from(
        { length: 5 },
        (
          (random) => () =>
            random.uniform()
        )(new Random(seed)),
      );
    expect(draw('a')).toEqual(draw('a'));
    expect(draw('a')).not.toEqual(draw('b'));
    const random = new Random('normal');
    const values = Array.from({ length: 20_000 }, () => random.normal());
    const mean = values.reduce((sum, value) => sum + value) / values.length;
    const variance = values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length;
    // Four standard errors.
    expect(Math.abs(mean)).toBeLessThan(4 / Math.sqrt(20_000));
    expect(Math.abs(variance - 1)).toBeLessThan(4 * Math.sqrt(2 / 20_000));
    expect(uniformOf('contract')).toBe(uniformOf('contract'));
    const grid = Array.from({ length: 10_000 }, (_, i) => uniformAt(7, i % 100, Math.floor(i / 100)));
    expect(new Set(grid).size).toBe(10_000);
    expect(Math.abs(grid.reduce((sum, value) => sum + value) / 10_000 - 0.5)).toBeLessThan(4 * 0.2887 * 0.01);
  });
});

describe('paths', () => {
  it('end where the story ends, on sessions only', () => {
    expect(days).toHaveLength(CLOCK.sessions + 1);
    expect(days.at(-1)).toBe('2031-03-13');
    expect(days.every((day) => isSession(CALENDAR, day))).toBe(true);
    for (const spec of ROOTS) {
      const last = lastOf(spec.symbol);
      expect(Math.abs(last.quarters[LAST_QUARTER]! - spec.lastPrice)).toBeLessThan(0.51 * spec.priceTick);
      expect(last.vol / last.level).toBeCloseTo(spec.vol.lastShare, 9);
    }
  });
  it('bars hold together, quarters lie inside them, and prices move by the vol that drives them', () => {
    for (const spec of ROOTS) {
      const path = pathOf(spec.symbol);
      for (const bar of path) {
        expect(bar.high).toBeGreaterThanOrEqual(Math.max(bar.open, bar.close, ...bar.quarters));
        expect(bar.low).toBeLessThanOrEqual(Math.min(bar.open, bar.close, ...bar.quarters));
        expect(bar.quarters).toHaveLength(QUARTERS);
      }
      // Turns of a story and announcements are no part of it.
      if (spec.turns.length > 0 || spec.events.some(({ jump }) => jump > 0.02)) continue;
      const { adjustment } = spec;
      const closes = path.map(({ day, close }) =>
        adjustment && day < adjustment.exDate ? inNewTerms(adjustment, close) : close,
      );
      const realized = closeVol(Float64Array.from(closes), path.length - 1).at(-1)!;
      const driving = Math.sqrt(path.reduce((sum, bar) => sum + bar.vol ** 2, 0) / path.length);
      expect(Math.abs(Math.log(realized / driving)), spec.symbol).toBeLessThan(Math.log(4 / 3));
    }
  });
  it('of a family move together, and an inverse against its pair', () => {
    for (const [at, session] of pathOf('MRX40').entries()) {
      expect(pathOf('MERI')[at]!.close).toBeCloseTo(session.close / 10, 1);
      expect(pathOf('ICRLUN')[at]!.close * pathOf('LUNICR')[at]!.close).toBeCloseTo(1, 3);
      expect(pathOf('LUNICR')[at]!.rho).toBe(-pathOf('ICRLUN')[at]!.rho);
    }
  });
  it('deliveries end on their curve; the nearer moves more, and those further apart less alike', () => {
    const movesOf = (symbol: string) => {
      const closes = pathOf(symbol).map(({ close }) => close);
      return closes.slice(1).map((close, i) => Math.log(close / closes[i]!));
    };
    for (const [root, isFalling] of [
      ['AQF', true],
      ['WNH', false],
    ] as const) {
      const months = ['J', 'K', 'M', 'N', 'Q', 'U'].map((letter) => `${root}${letter}31`);
      const ends = months.map((symbol) => lastOf(symbol).quarters[LAST_QUARTER]!);
      expect(ends.every((price, i) => i === 0 || price < ends[i - 1]! === isFalling)).toBe(true);
      const moves = months.map(movesOf);
      const size = moves.map(deviation);
      expect(size.every((one, i) => i === 0 || one < size[i - 1]!)).toBe(true);
      const alike = moves.slice(1).map((other) => correlation(moves[0]!, other));
      expect(alike.every((one, i) => one < (alike[i - 1] ?? 1))).toBe(true);
      expect(alike.at(-1)!).toBeLessThan(0.98);
      expect(alike.at(-1)!).toBeGreaterThan(0.8);
    }
  });
  it('vol rises in the quarters in which the price falls, and returns of the index are no trend', () => {
    const path = pathOf('MRX40');
    const prices = path.map(({ quarters }) => quarters[LAST_QUARTER]!);
    const returns = prices.slice(1).map((price, i) => Math.log(price / prices[i]!));
    const changes = path.slice(1).map(({ vol }, i) => vol - path[i]!.vol);
    // Common practice: about −0.7 for an index. Two standard errors of 260 returns without memory are 0.12.
    expect(correlation(returns, changes)).toBeLessThan(-0.6);
    expect(Math.abs(correlation(returns.slice(1), returns.slice(0, -1)))).toBeLessThan(0.12);
    const day = path.find((session) => session.day === SELL_OFF.day)!;
    const inside = day.quarters.slice(1).map((price, i) => Math.log(price / day.quarters[i]!));
    const heat = day.vols.slice(1).map((vol, i) => Math.log(vol / day.vols[i]!));
    expect(correlation(inside, heat)).toBeLessThan(-0.4);
  });
  it('the July sell-off is a fall with a jump of vol', () => {
    const path = pathOf('MRX40');
    const at = path.findIndex((session) => session.day === '2030-07-16');
    expect(path[at]!.vol).toBeGreaterThan(1.5 * path[at - 1]!.vol);
    expect(path[at]!.close).toBeLessThan(path[at - 1]!.close);
    expect(path[at + 40]!.vol).toBeLessThan(path[at]!.vol);
  });
});

describe('smiles and expiries', () => {
  it('weeklies, monthlies and quarterlies trade, none that expires on the day', () => {
    const index = expiriesAt('2031-03-13', specOf('MRX40'));
    expect(index).toEqual([
      '2031-03-20',
      '2031-03-27',
      '2031-04-03',
      '2031-04-10',
      '2031-04-17',
      '2031-05-15',
      '2031-06-19',
      '2031-09-18',
      '2031-12-18',
      '2031-12-18am',
    ]);
    expect(expiriesAt('2031-03-13', specOf('CAIR')).map((day) => expiryClass(CALENDAR, day))).not.toContain('weekly');
  });
  it('a day on which two series settle has two expiries: the morning one is worth a session less', () => {
    const spec = specOf('MRX40');
    const day = spec.settledTwice!;
    expect(expiriesAt('2031-03-13', spec).filter((name) => name.startsWith(day))).toEqual([day, `${day}am`]);
    expect(expiriesAt('2030-06-13', spec).filter((name) => name.endsWith('am'))).toEqual([]);
    const [afternoon, morning] = [day, `${day}am`].map((name) => smileOf(spec, momentAt('MRX40'), name)) as [
      Smile,
      Smile,
    ];
    expect((afternoon.years - morning.years) * 365 * 24).toBeCloseTo(6.5, 6);
    expect(morning.theta).toBeLessThan(afternoon.theta);
    const quotes = chainOf(spec);
    const own = snapshotOf('MRX40', momentAt('MRX40'), quotes).slices.filter(({ expiry }) => expiry === day);
    expect(own.map(({ settlement }) => settlement)).toEqual(['am', 'pm']);
  });
  it('a day has its own expiry where there is one every session, and a future none after its delivery', () => {
    expect(expiriesAt('2031-03-13', specOf('REFS')).slice(0, 3)).toEqual(['2031-03-13', '2031-03-14', '2031-03-20']);
    expect(expiriesAt('2031-03-13', specOf('AQFJ31'))).toEqual(['2031-03-20', '2031-04-17']);
    expect(expiriesAt('2031-03-13', specOf('AQFU31'))).toEqual([
      '2031-03-20',
      '2031-04-17',
      '2031-05-15',
      '2031-09-18',
    ]);
  });
  it('an announcement on the way adds its variance, one after the expiry does not', () => {
    const spec = specOf('LMNQ');
    const quiet = { ...spec, events: [] };
    const theta = (of: typeof spec, expiry: string) => smileOf(of, momentAt('LMNQ'), expiry).theta;
    expect(theta(spec, '2031-03-20')).toBe(theta(quiet, '2031-03-20'));
    expect(theta(spec, '2031-03-27') - theta(quiet, '2031-03-27')).toBeCloseTo(0.085 ** 2, 12);
    expect(sessionsBetween(CALENDAR, '2031-03-13', '2031-03-21')).toBe(6);
  });
  it('cash dividends before the expiry lower the forward', () => {
    const spec = specOf('CAIR');
    const forward = (of: typeof spec) => smileOf(of, momentAt('CAIR'), '2031-04-17').forward;
    expect(forward({ ...spec, dividends: [] }) - forward(spec)).toBeCloseTo(0.85, 1);
  });
});

describe('quotes', () => {
  const spec = specOf('CAIR');
  const quotes = chainOf(spec);
  it('lie on their ticks around a spread that widens away from the money', () => {
    for (const { bid, ask } of quotes) {
      expect(ask).toBeGreaterThan(bid);
      expect(Math.abs(ask * 100 - Math.round(ask * 100))).toBeLessThan(1e-6);
    }
    const expiry = '2031-06-19';
    const spreadIn = (from: number, to: number) => {
      const within = quotes.filter(
        (quote) => quote.expiry === expiry && quote.side === 'P' && quote.strike >= from && quote.strike < to,
      );
      return within.reduce((sum, { bid, ask }) => sum + (ask - bid) / (ask + bid), 0) / within.length;
    };
    expect(spreadIn(70, 90)).toBeGreaterThan(spreadIn(105, 120));
  });
  it('trade most near the money and in near expiries', () => {
    const volume = (match: (quote: (typeof quotes)[number]) => boolean) =>
      quotes.filter(match).reduce((sum, quote) => sum + quote.volume, 0);
    const near = (quote: { strike: number }) => Math.abs(quote.strike - 112) < 6;
    expect(volume(near)).toBeGreaterThan(0);
    expect(volume((quote) => quote.expiry === '2031-04-17')).toBeGreaterThan(
      volume((quote) => quote.expiry === '2031-12-18'),
    );
  });
  it('a contract keeps its unevenness from day to day', () => {
    const smile = smileOf(spec, momentAt('CAIR'), '2031-04-17');
    expect(volAt(smile, 110, 1)).toBe(volAt(smile, 110, 1));
    expect(volAt(smile, 110, 1)).not.toBe(volAt(smile, 110, 2));
  });
  it('open interest changes once a session, by no more than was traded, and builds; volume only grows', () => {
    let before = new Map<string, Quote>();
    let last = '';
    let early = new Map<string, Quote>();
    for (const chain of chainsOf(spec, pathOf('CAIR'))) {
      const now = new Map(chain.clean.map((quote) => [contractOf(quote), quote]));
      for (const [contract, { openInterest, volume }] of now) {
        const then = before.get(contract);
        if (!then) continue;
        if (chain.session.day === last) {
          expect(openInterest, contract).toBe(then.openInterest);
          expect(volume, contract).toBeGreaterThanOrEqual(then.volume);
        } else expect(Math.abs(openInterest - then.openInterest), contract).toBeLessThanOrEqual(then.volume);
      }
      if (chain.session.day === '2030-12-18') early = now;
      before = now;
      last = chain.session.day;
    }
    // Of the contracts that are listed still.
    const total = (of: typeof before) =>
      [...before.keys()]
        .filter((contract) => contract.startsWith('2031-03-20') && early.has(contract))
        .reduce((sum, contract) => sum + of.get(contract)!.openInterest, 0);
    expect(total(before)).toBeGreaterThan(1.5 * total(early));
  });
  it('trade more as the session goes on, and what is traded is on the tape', () => {
    const volumeAt = (share: number) => chainOf(spec, share).map((quote) => quote.volume);
    const [early, late] = [volumeAt(0.3), volumeAt(1)];
    expect(early.every((volume, i) => volume <= late[i]!)).toBe(true);
    expect([tradedShare(0), tradedShare(1)]).toEqual([0, 1]);
    const gained = new Map(quotes.map((quote) => [contractOf(quote), quote.volume]));
    const tape = printsOf('CAIR', quotes, gained, 0, 900_000, spec.optionTick);
    for (const quote of quotes) {
      const own = tape.filter((print) => contractOf(print) === contractOf(quote));
      expect(own.reduce((sum, print) => sum + print.size, 0)).toBe(quote.volume);
      for (const { price } of own) {
        expect(price).toBeGreaterThanOrEqual(Math.min(quote.bid || spec.optionTick[0], quote.ask) - 1e-9);
        expect(price).toBeLessThanOrEqual(quote.ask + 1e-9);
      }
    }
    const groups = [...new Set(tape.flatMap(({ group }) => (group === '' ? [] : [group])))];
    expect(groups.length).toBeGreaterThan(5);
    for (const group of groups) {
      const legs = tape.filter((print) => print.group === group);
      expect(legs).toHaveLength(2);
      expect([legs[0]!.time, legs[0]!.size]).toEqual([legs[1]!.time, legs[1]!.size]);
    }
  });
  it('of two outcomes hold the forward and have two humps', () => {
    const pelg = specOf('PELG');
    const expiry = '2031-05-15';
    const { forward, rate, years, humps } = smileOf(pelg, momentAt('PELG'), expiry);
    expect(humps.reduce((sum, { multiple, weight }) => sum + multiple * weight, 0)).toBeCloseTo(1, 12);
    const own = chainOf(pelg).filter((quote) => quote.expiry === expiry);
    const mid = (side: string, strike: number) => {
      const { bid, ask } = own.find((quote) => quote.side === side && quote.strike === strike)!;
      return 0.5 * (bid + ask);
    };
    // Parity holds through the mixture, within the spread.
    expect(30 + (mid('C', 30) - mid('P', 30)) * Math.exp(rate * years)).toBeCloseTo(forward, 0);
  });
});

describe('adjustments', () => {
  const quotesOn = (symbol: string, day: string) => {
    const spec = specOf(symbol);
    const upTo = pathOf(symbol).filter((session) => session.day <= day);
    return [...chainsOf(spec, upTo)].at(-1)!;
  };
  it('take contracts of before along: a call of a share that is split costs half, at half its strike', () => {
    const [before, after] = [quotesOn('GYRB', '2030-09-06'), quotesOn('GYRB', '2030-09-09')];
    const named = (quotes: readonly Quote[]) =>
      new Map(quotes.filter(({ side }) => side === 'C').map((quote) => [`${quote.expiry} ${quote.strike}`, quote]));
    const [then, now] = [named(before.clean), named(after.clean)];
    let compared = 0;
    for (const { expiry, strike, openInterest, volume } of then.values()) {
      const adjusted = now.get(`${expiry} ${strike / 2}`);
      if (!adjusted) continue;
      compared++;
      // Two contracts for one, and what the session before the split has opened or closed.
      expect(Math.abs(adjusted.openInterest - 2 * openInterest)).toBeLessThanOrEqual(2 * volume);
    }
    expect(compared).toBeGreaterThan(
      0.7 * new Set(after.clean.map(({ expiry, strike }) => `${expiry} ${strike}`)).size,
    );
    expect(after.faults.some(({ kind }) => kind === 'stale')).toBe(false);
  });
  it('leave strikes of a special dividend off the list that begins after it', () => {
    const strikes = (day: string, expiry: string) =>
      quotesOn('AURG', day).clean.flatMap((quote) => (quote.expiry === expiry ? [quote.strike] : []));
    const isOnList = (strike: number) => Math.abs((strike / 2.5) % 1) < 1e-9;
    expect(strikes('2030-10-11', '2030-11-21').every(isOnList)).toBe(true);
    expect(strikes('2030-10-14', '2030-11-21').some(isOnList)).toBe(false);
    expect(strikes('2030-12-16', '2031-01-16').every(isOnList)).toBe(true);
  });
  it('end with the last chain of a share that is listed no longer', () => {
    expect(quotesOn('HRBR', '2031-03-13').session.day).toBe('2030-10-31');
  });
});

describe('files', () => {
  const folders: string[] = [];
  afterAll(() => folders.forEach((folder) => rmSync(folder, { recursive: true, force: true })));
  /** Writes the world but for the chains of all but some underlyings. */
  async function write(...symbols: string[]) {
    const folder = mkdtempSync(join(tmpdir(), 'umwelt-demo-'));
    folders.push(folder);
    const files = await writeTables(folder);
    const chains = [];
    for (const symbol of symbols) chains.push(await writeChain(folder, symbol));
    files.push(
      ...chains.map(({ path }) => path),
      ...(await writeRest(
        folder,
        chains.map(({ told }) => told),
      )),
    );
    const lines = (name: string) =>
      readFileSync(join(folder, `${name}.csv`), 'utf8')
        .trim()
        .split('\r\n');
    return { folder, files, lines };
  }
  let world: Awaited<ReturnType<typeof write>>;
  beforeAll(async () => {
    world = await write('CAIR', 'GYRB', 'QUAY');
  });

  it('of the book are trades at quotes that there were: CAIR was sold, and rolled', () => {
    const [header, ...fills] = world.lines('fills');
    expect(header).toBe('time,book,position,symbol,expiry,settlement,strike,side,quantity,price,fee');
    const rows = fills.map((line) => line.split(','));
    const told = rows.map(([time, , position, , expiry, , , side, quantity]) =>
      [time!.slice(0, 10), position, expiry, side, quantity].join(' '),
    );
    const trades = (day: string, expiry: string, quantity: number) =>
      ['C', 'P'].map((side) => `${day} CAIR sold strangle ${expiry} ${side} ${quantity}`);
    expect([...told].sort()).toEqual([
      ...trades('2031-01-21', '2031-03-20', -35),
      ...trades('2031-03-05', '2031-03-20', 35),
      ...trades('2031-03-05', '2031-04-17', -35),
    ]);
    const chain = world.lines('chain-CAIR');
    for (const [time, , , , expiry, , strike, side, quantity, price] of rows) {
      const quote = chain.find((line) => line.startsWith(`${time},CAIR,${expiry},${strike},${side},`))!.split(',');
      const [bid, ask] = [Number(quote[5]), Number(quote[6])];
      // Half of the half spread is paid.
      const share = (Number(price) - 0.5 * (bid + ask)) / (0.5 * (ask - bid));
      expect(share * Math.sign(Number(quantity))).toBeCloseTo(0.5, 2);
    }
    expect(rows.reduce((sum, row) => sum + Number(row[8]), 0)).toBe(-70);
  });
  it('are those of the open formats, in the order of their import', () => {
    expect(world.files.map((path) => path.slice(world.folder.length + 1))).toEqual([
      'underlyings.csv',
      'rates.csv',
      'dividends.csv',
      'events.csv',
      'bars.csv',
      'chain-CAIR.csv',
      'chain-GYRB.csv',
      'chain-QUAY.csv',
      'prints.csv',
      'fills.csv',
    ]);
    expect(DEMO_FILES).toBe(UNDERLYINGS.length + 7);
    expect(world.lines('underlyings')).toHaveLength(1 + UNDERLYINGS.length);
    // The last session is not over, so it has no bar.
    const traded = UNDERLYINGS.flatMap((spec) => days.slice(0, -1).filter((day) => isTraded(spec, day)));
    expect(world.lines('bars')).toHaveLength(1 + traded.length);
    expect(traded.length).toBeLessThan(UNDERLYINGS.length * CLOCK.sessions);
    expect(world.lines('bars').at(-1)).toContain('LUNICR,2031-03-12,');
  });
  it('hold a chain a session and one a quarter on two days; one day is missing from one of them', () => {
    const moments = (name: string) => [
      ...new Set(
        world
          .lines(name)
          .slice(1)
          .map((line) => line.split(',')[0]!),
      ),
    ];
    expect(moments('chain-CAIR')).toHaveLength(CLOCK.sessions + 1 + 2 * (QUARTERS - 1));
    expect(moments('chain-GYRB')).toHaveLength(CLOCK.sessions + 2 * (QUARTERS - 1));
    expect(moments('chain-GYRB').some((asof) => asof.startsWith('2030-11-12'))).toBe(false);
    // A half day ends at 13:00.
    expect(moments('chain-CAIR')).toContain('2030-12-24T12:45-01:00');
  });
  it('have crossed quotes and zero bids among them, and one expiry that speaks of another price', () => {
    const rows = world
      .lines('chain-QUAY')
      .slice(1)
      .map((line) => line.split(','));
    const prices = rows.map((row) => [Number(row[5]), Number(row[6])] as const);
    expect(prices.filter(([bid, ask]) => bid > ask).length).toBeGreaterThanOrEqual(CLOCK.sessions - 20);
    expect(prices.filter(([bid]) => bid === 0).length).toBeGreaterThan(CLOCK.sessions);
    const mid = (side: string) => {
      const row = rows.findLast((cells) => cells[2] === '2031-06-19' && cells[3] === '17.5' && cells[4] === side)!;
      return 0.5 * (Number(row[5]) + Number(row[6]));
    };
    expect(17.5 + mid('C') - mid('P')).toBeGreaterThan(1.04 * lastOf('QUAY').quarters[LAST_QUARTER]!);
  });
  it('the tape adds up to the volume of the last chain', () => {
    const last = world
      .lines('chain-CAIR')
      .map((line) => line.split(','))
      .filter(([asof]) => asof === '2031-03-13T15:45-01:00');
    const tape = world
      .lines('prints')
      .map((line) => line.split(','))
      .filter(([, symbol]) => symbol === 'CAIR');
    const contract = (cells: string[], from: number) => cells.slice(from, from + 3).join(' ');
    for (const row of last.filter((cells) => Number(cells[10]) > 200)) {
      const own = tape.filter((cells) => contract(cells, 2) === contract(row, 2));
      // A planted stale quote has lost its volume.
      expect(own.reduce((sum, cells) => sum + Number(cells[6]), 0)).toBe(Number(row[10]));
    }
    expect(tape.length).toBeGreaterThan(300);
  });
  it('are the same when they are made again', async () => {
    const again = await write('CAIR');
    for (const name of ['bars', 'chain-CAIR']) expect(again.lines(name)).toEqual(world.lines(name));
  });
});
