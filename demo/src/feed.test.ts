import { closeVol, dayOf, isSession, priceContract } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { Feed } from './feed';
import { advance, FEED_START, feedPoints, hoursAt, hoursOf } from './feed-clock';
import { lineageOf, World } from './market';
import { LAST_QUARTER, QUARTER_MS } from './path';
import { contractOf } from './listing';
import { expiriesAt, momentOf, smileOf } from './smile';
import { CALENDAR } from './world';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const at = (day: string, time: string) => Date.parse(`${day}T${time}:00-01:00`);

describe('the clock of the feed', () => {
  it('begins at the last moment of the world and skips what is closed', () => {
    expect(FEED_START).toBe(at('2031-03-13', '15:45'));
    expect(advance(FEED_START, 5 * MINUTE)).toBe(at('2031-03-13', '15:50'));
    // The close belongs to the session; what is left over is spent in the next.
    expect(advance(FEED_START, 15 * MINUTE)).toBe(at('2031-03-13', '16:00'));
    expect(advance(FEED_START, 15 * MINUTE + 1)).toBe(at('2031-03-14', '09:30') + 1);
    // Over a weekend.
    expect(advance(at('2031-03-14', '15:59'), 2 * MINUTE)).toBe(at('2031-03-17', '09:31'));
    expect(advance(FEED_START, 0)).toBe(FEED_START);
  });
  it('passes in parts as in one go, on sessions only', () => {
    let moment = FEED_START;
    for (let n = 0; n < 400; n++) {
      moment = advance(moment, 37 * MINUTE);
      expect(isSession(CALENDAR, dayOf(CALENDAR, moment))).toBe(true);
      const { open, close } = hoursAt(moment);
      expect(moment >= open && moment <= close).toBe(true);
    }
    expect(moment).toBe(advance(FEED_START, 400 * 37 * MINUTE));
  });
  it('is stored every quarter of an hour from the open, and at the close', () => {
    const points = feedPoints(FEED_START, at('2031-03-14', '16:00'));
    expect(points).toHaveLength(1 + 26 + 1);
    expect(points[0]).toMatchObject({ moment: at('2031-03-13', '16:00'), isClose: true });
    expect(points[1]).toMatchObject({ moment: at('2031-03-14', '09:30'), isClose: false });
    expect(points.at(-1)).toMatchObject({ moment: at('2031-03-14', '16:00'), isClose: true });
    expect(feedPoints(FEED_START, FEED_START)).toEqual([]);
    // None twice, and none left out, however it is cut.
    const middle = at('2031-03-14', '11:07');
    const parts = [...feedPoints(FEED_START, middle), ...feedPoints(middle, at('2031-03-14', '16:00'))];
    expect(parts.map(({ moment }) => moment)).toEqual(points.map(({ moment }) => moment));
  });
  it('knows half days', () => {
    const half = Array.from({ length: 400 }, (_, n) => new Date(Date.parse('2031-03-14') + n * 24 * HOUR))
      .map((date) => date.toISOString().slice(0, 10))
      .filter((day) => isSession(CALENDAR, day))
      .map(hoursOf)
      .find(({ quarters }) => quarters < 26)!;
    expect(half.close - half.open).toBe(half.quarters * QUARTER_MS);
    const feed = new Feed();
    expect(feed.chain('CAIR', half.close).quotes.length).toBeGreaterThan(20);
    expect(feed.bar('CAIR', half.day).close).toBe(feed.moment('CAIR', half.close).price);
  });
});

describe('the market of the feed', () => {
  const world = new World();
  const feed = new Feed();
  const SYMBOLS = ['MRX40', 'MERI', 'LUNICR', 'AQFM31', 'CAIR', 'PELG', 'REFS'];

  it('goes on from where the world ends', () => {
    for (const symbol of SYMBOLS) {
      const path = world.path(symbol);
      const last = momentOf(path.at(-1)!, path.at(-2)!, LAST_QUARTER);
      const first = feed.moment(symbol, FEED_START);
      expect(first.price, symbol).toBeCloseTo(last.price, 5);
      expect(first.vol, symbol).toBeCloseTo(last.vol, 12);
      expect(first.rho, symbol).toBe(last.rho);
      expect(feed.moment(symbol, at('2031-03-13', '16:00')).price, symbol).toBeCloseTo(path.at(-1)!.close, 5);
    }
  });

  it('is a function of the moment: another feed, asked in another order, says the same', () => {
    const moments = [1, 61, 1000, 40_000, 90_000].map((seconds) => advance(FEED_START, 1000 * seconds));
    const other = new Feed();
    const told = (of: Feed, moment: number) => ['CAIR', 'MERI'].map((symbol) => of.chain(symbol, moment));
    const forward = moments.map((moment) => told(feed, moment));
    const backward = [...moments].reverse().map((moment) => told(other, moment));
    expect(backward.reverse()).toEqual(forward);
  });

  it('moves every second, in steps that belong to its vol, and followers with what they follow', () => {
    const start = at('2031-03-14', '10:00');
    const prices = Array.from({ length: 1800 }, (_, s) => feed.moment('MRX40', start + 1000 * s));
    const moves = prices.slice(1).map((moment, s) => Math.log(moment.price / prices[s]!.price));
    expect(moves.filter((move) => move !== 0).length).toBeGreaterThan(1200);
    const perSession = Math.sqrt((moves.reduce((sum, move) => sum + move ** 2, 0) / moves.length) * 6.5 * 3600);
    const driving = prices[0]!.vol * Math.sqrt(0.78 / 252);
    // Five standard errors of a deviation of 1 800 moves, and a little for the ticks.
    expect(Math.abs(Math.log(perSession / driving))).toBeLessThan(0.09 + 0.03);
    for (const moment of [start, start + 12_345_000]) {
      const index = feed.moment('MRX40', moment);
      expect(feed.moment('MERI', moment).price).toBeCloseTo(index.price / 10, 1);
      expect(feed.moment('LUNICR', moment).price * feed.moment('ICRLUN', moment).price).toBeCloseTo(1, 3);
      expect(feed.moment('LUNICR', moment).rho).toBe(-feed.moment('ICRLUN', moment).rho);
    }
  });

  it('has a year of sessions whose realized vol is the one that drives them', () => {
    const ends = Array.from({ length: 250 }, (_, n) => hoursAt(advance(FEED_START, (n * 6.5 + 1) * HOUR)).close);
    for (const symbol of ['MRX40', 'CAIR', 'TIDL']) {
      const moments = ends.map((end) => feed.moment(symbol, end));
      const realized = closeVol(
        Float64Array.from(moments, ({ price }) => price),
        moments.length - 1,
      ).at(-1)!;
      const driving = Math.sqrt(moments.reduce((sum, { vol }) => sum + vol ** 2, 0) / moments.length);
      // Announcements and dividends are no part of the driving vol; five standard errors of 249 moves are 22 %.
      expect(Math.abs(Math.log(realized / driving)), symbol).toBeLessThan(0.25);
      for (const { vol, level } of moments) expect(Math.abs(Math.log(vol / level))).toBeLessThan(2);
    }
  });

  it('quotes around the value of its smile, on the strikes of the session', () => {
    const moment = at('2031-03-14', '11:23');
    const { spec } = lineageOf('CAIR');
    const { quotes } = feed.chain('CAIR', moment);
    const now = feed.moment('CAIR', moment);
    for (const { expiry, strike, side, bid, ask } of quotes) {
      expect(ask).toBeGreaterThan(bid);
      const smile = smileOf(spec, now, expiry);
      const value = (vol: number) =>
        priceContract({
          model: 'black-76',
          side: side === 'C' ? 'call' : 'put',
          forward: smile.forward,
          strike,
          years: smile.years,
          rate: smile.rate,
          vol,
        }).price;
      // Between values at vols that are far too low and too high.
      expect(ask, `${expiry} ${strike} ${side}`).toBeGreaterThan(value(0.08));
      expect(bid, `${expiry} ${strike} ${side}`).toBeLessThan(value(0.7));
    }
    const strikes = (from: number) => new Set(feed.chain('CAIR', from).quotes.map(contractOf));
    expect(strikes(moment)).toEqual(strikes(at('2031-03-14', '15:59')));
    expect([...new Set(quotes.map(({ expiry }) => expiry))]).toEqual(expiriesAt('2031-03-14', spec));
  });

  it('a quote rests until it is renewed: from second to second few change where the price does not', () => {
    const moment = at('2031-03-14', '11:00');
    const [one, next] = [feed.chain('LEEW', moment), feed.chain('LEEW', moment + 1000)];
    const changed = one.quotes.filter(
      ({ bidSize, askSize }, i) => bidSize !== next.quotes[i]!.bidSize || askSize !== next.quotes[i]!.askSize,
    );
    expect(changed.length / one.quotes.length).toBeLessThan(0.1);
  });

  it('volume is what stands on the tape, never falls, and open interest stays', () => {
    const volumes = (symbol: string, moment: number) =>
      new Map(feed.chain(symbol, moment).quotes.map((quote) => [contractOf(quote), quote]));
    const [from, to] = [at('2031-03-14', '10:04'), at('2031-03-14', '10:52')];
    for (const symbol of ['REFS', 'CAIR']) {
      const [before, after] = [volumes(symbol, from), volumes(symbol, to)];
      const prints = feed.prints(symbol, from, to);
      expect(prints.length).toBeGreaterThan(5);
      const gained = new Map<string, number>();
      for (const print of prints) {
        expect(print.time > from && print.time <= to).toBe(true);
        gained.set(contractOf(print), (gained.get(contractOf(print)) ?? 0) + print.size);
      }
      for (const [contract, quote] of after) {
        expect(quote.volume - before.get(contract)!.volume, contract).toBe(gained.get(contract) ?? 0);
        expect(quote.openInterest).toBe(before.get(contract)!.openInterest);
      }
    }
    // The last quarter of the world's last session adds to what its snapshot counts.
    const told = volumes('MRX40', FEED_START);
    for (const [contract, quote] of volumes('MRX40', at('2031-03-13', '16:00'))) {
      expect(quote.volume).toBeGreaterThanOrEqual(told.get(contract)!.volume);
    }
    // And a new session begins with nothing.
    expect([...volumes('REFS', hoursOf('2031-03-14').open).values()].every(({ volume }) => volume < 20)).toBe(true);
  });

  it('the bar of a session holds every price of it', () => {
    for (const symbol of ['MRX40', 'LUNICR']) {
      const { open, close } = hoursOf('2031-03-14');
      const bar = feed.bar(symbol, '2031-03-14');
      expect(bar.open).toBe(feed.moment(symbol, open).price);
      expect(bar.close).toBe(feed.moment(symbol, close).price);
      for (let moment = open; moment <= close; moment += 7000) {
        const { price } = feed.moment(symbol, moment);
        expect(price <= bar.high && price >= bar.low).toBe(true);
      }
    }
    const last = world.path('CAIR').at(-1)!;
    const first = feed.bar('CAIR', '2031-03-13');
    expect(first.date).toBe('2031-03-13');
    expect(first.open).toBeCloseTo(last.open, 5);
    expect(first.close).toBeCloseTo(last.close, 5);
  });

  it('announcements are on their way until they are made', () => {
    const { spec } = lineageOf('LMNQ');
    const [results] = spec.events.filter(({ day }) => day > '2031-03-13');
    const made = at(results!.day, results!.time);
    const expiry = expiriesAt(results!.day, spec).find((day) => day > results!.day)!;
    const theta = (moment: number) => smileOf(spec, feed.moment('LMNQ', moment), expiry).theta;
    const { open, close } = hoursOf(results!.day);
    const isBefore = made <= open;
    const eve = isBefore ? advance(FEED_START, 0) : open;
    expect(theta(eve)).toBeGreaterThan(theta(close) + 0.8 * results!.jump ** 2);
  });

  it('a future is quoted until its delivery', () => {
    const { expires } = lineageOf('AQFJ31').spec;
    expect(feed.isQuoted('AQFJ31', FEED_START)).toBe(true);
    expect(feed.isQuoted('AQFJ31', hoursOf(expires!).open)).toBe(false);
    expect(() => lineageOf('NONE')).toThrow('no underlying of the demo world');
  });
});
