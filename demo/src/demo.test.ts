import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { closeVol, expiryClass, isSession, sessionsBetween } from '@umwelt/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writeDemo } from './files';
import { CALENDAR, islandMoves, playPath, sessionDays } from './path';
import { quotesAt } from './quotes';
import { Random, uniformOf } from './random';
import { expiriesAt, smileOf, volAt } from './smile';
import { CLOCK, UNDERLYINGS } from './world';

const days = sessionDays();
const island = islandMoves(days);
const paths = new Map(UNDERLYINGS.map((spec) => [spec.symbol, playPath(spec, days, island)]));
const specOf = (symbol: string) => UNDERLYINGS.find((spec) => spec.symbol === symbol)!;
const lastOf = (symbol: string) => paths.get(symbol)!.at(-1)!;

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
  });
});

describe('paths', () => {
  it('end where the story ends, on sessions only', () => {
    expect(days).toHaveLength(CLOCK.barSessions + 1);
    expect(days.at(-1)).toBe('2031-03-13');
    expect(days.every((day) => isSession(CALENDAR, day))).toBe(true);
    for (const spec of UNDERLYINGS) {
      expect(lastOf(spec.symbol).snapshotPrice).toBeCloseTo(spec.lastPrice, 9);
      expect(lastOf(spec.symbol).vol).toBeCloseTo(spec.vol.lastShare * spec.vol.level, 9);
    }
  });
  it('bars hold together and move by the vol that drives them', () => {
    for (const [, path] of paths) {
      for (const bar of path) {
        expect(bar.high).toBeGreaterThanOrEqual(Math.max(bar.open, bar.close));
        expect(bar.low).toBeLessThanOrEqual(Math.min(bar.open, bar.close));
      }
      const realized = closeVol(
        Float64Array.from(path, (bar) => bar.close),
        path.length - 1,
      ).at(-1)!;
      const driving = Math.sqrt(path.reduce((sum, bar) => sum + bar.vol ** 2, 0) / path.length);
      // Jumps and sampling leave the two apart, but not by a third.
      expect(Math.abs(Math.log(realized / driving))).toBeLessThan(Math.log(4 / 3));
    }
  });
  it('the July sell-off is a fall with a jump of vol', () => {
    const path = paths.get('MRX40')!;
    const at = path.findIndex((session) => session.day === '2030-07-16');
    expect(path[at]!.vol).toBeGreaterThan(1.5 * path[at - 1]!.vol);
    expect(path[at]!.close).toBeLessThan(path[at - 1]!.close);
    expect(path[at + 40]!.vol).toBeLessThan(path[at]!.vol);
  });
});

describe('smiles and expiries', () => {
  it('weeklies, monthlies and quarterlies trade, none that expires on the day', () => {
    const index = expiriesAt('2031-03-13', 4);
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
    ]);
    expect(expiriesAt('2031-03-13', 0).map((day) => expiryClass(CALENDAR, day))).not.toContain('weekly');
  });
  it('an announcement on the way adds its variance, one after the expiry does not', () => {
    const spec = specOf('LMNQ');
    const quiet = { ...spec, events: [] };
    const theta = (of: typeof spec, expiry: string) => smileOf(of, lastOf('LMNQ'), expiry).theta;
    expect(theta(spec, '2031-03-20')).toBe(theta(quiet, '2031-03-20'));
    expect(theta(spec, '2031-03-27') - theta(quiet, '2031-03-27')).toBeCloseTo(0.085 ** 2, 12);
    expect(sessionsBetween(CALENDAR, '2031-03-13', '2031-03-21')).toBe(6);
  });
  it('cash dividends before the expiry lower the forward', () => {
    const spec = specOf('CAIR');
    const forward = (of: typeof spec) => smileOf(of, lastOf('CAIR'), '2031-04-17').forward;
    expect(forward({ ...spec, dividends: [] }) - forward(spec)).toBeCloseTo(0.85, 1);
  });
});

describe('quotes', () => {
  const session = lastOf('CAIR');
  const spec = specOf('CAIR');
  const quotes = quotesAt(spec, session, paths.get('CAIR')!.at(-2)!);
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
    const smile = smileOf(spec, session, '2031-04-17');
    expect(volAt(smile, 110, 'x')).toBe(volAt(smile, 110, 'x'));
    expect(volAt(smile, 110, 'x')).not.toBe(volAt(smile, 110, 'y'));
  });
});

describe('files', () => {
  let folder: string;
  let files: string[];
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'umwelt-demo-'));
    files = await writeDemo(folder);
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  const lines = (name: string) =>
    readFileSync(join(folder, `${name}.csv`), 'utf8')
      .trim()
      .split('\r\n');

  it('are those of the open formats, in the order of their import', () => {
    expect(files.map((file) => file.slice(folder.length + 1))).toEqual([
      'underlyings.csv',
      'rates.csv',
      'dividends.csv',
      'events.csv',
      'bars.csv',
      'chain-MRX40.csv',
      'chain-CAIR.csv',
      'chain-LMNQ.csv',
    ]);
    expect(lines('underlyings')).toHaveLength(4);
    // The last session is not over, so it has no bar.
    expect(lines('bars')).toHaveLength(1 + 3 * CLOCK.barSessions);
    expect(lines('bars').at(-1)).toContain('LMNQ,2031-03-12,');
  });
  it('hold 60 snapshots a chain, with crossed quotes and zero bids among them', () => {
    const rows = lines('chain-MRX40')
      .slice(1)
      .map((line) => line.split(','));
    expect(new Set(rows.map(([asof]) => asof)).size).toBe(CLOCK.chainSessions);
    const prices = rows.map((row) => [Number(row[5]), Number(row[6])] as const);
    expect(prices.filter(([bid, ask]) => bid > ask).length).toBeGreaterThanOrEqual(CLOCK.chainSessions - 5);
    expect(prices.filter(([bid]) => bid === 0).length).toBeGreaterThan(0);
    expect(prices.every(([bid, ask]) => Number.isFinite(bid + ask))).toBe(true);
  });
  it('are the same when they are made again', async () => {
    const again = mkdtempSync(join(tmpdir(), 'umwelt-demo-'));
    await writeDemo(again);
    for (const name of ['bars', 'chain-LMNQ']) {
      expect(readFileSync(join(again, `${name}.csv`), 'utf8')).toBe(readFileSync(join(folder, `${name}.csv`), 'utf8'));
    }
    rmSync(again, { recursive: true, force: true });
  });
});
