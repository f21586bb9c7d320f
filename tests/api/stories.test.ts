import { describe, expect, it } from 'vitest';
import type { z } from 'zod';
import {
  ChainResponse,
  EventsResponse,
  HistoryResponse,
  ScreenResponse,
  SnapshotResponse,
  SnapshotsResponse,
  SurfaceResponse,
  UnderlyingsResponse,
} from '../../web/src/lib/api/schemas';
import { get } from './client';

/** Every underlying of the demo shows something; here each is looked for in what the application measures. */
const rows = get('/underlyings', UnderlyingsResponse).then(({ underlyings }) => underlyings);
const one = async (symbol: string) => (await rows).find((row) => row.symbol === symbol)!;
const snapshotsOf = async (symbol: string) =>
  (await get(`/underlyings/${symbol}/snapshots`, SnapshotsResponse)).snapshots;
const latest = (symbol: string) => get(`/underlyings/${symbol}/snapshots/latest`, SnapshotResponse);
const surface = async (symbol: string) => (await get(`/underlyings/${symbol}/surface`, SurfaceResponse)).slices;
const at = <T extends { asof: string }>(list: readonly T[], day: string) =>
  list.findLast(({ asof }) => asof.startsWith(day))!;
const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;

async function closes(symbol: string): Promise<Map<string, number>> {
  const { rows: history } = await get(`/underlyings/${symbol}/history?series=close`, HistoryResponse);
  return new Map(history.filter((row) => row['close'] !== null).map((row) => [row.date, row['close'] as number]));
}

/** Half spread over mid of the contracts near the money. */
function tightness({ slices, price }: z.infer<typeof SnapshotResponse>): number {
  const shares = slices.flatMap(({ strike, call }) =>
    strike.flatMap((level, i) => {
      const [bid, ask] = [call.bid[i]!, call.ask[i]!];
      return Math.abs(level / price! - 1) < 0.06 && bid > 0 && ask > bid ? [(ask - bid) / (ask + bid)] : [];
    }),
  );
  return mean(shares);
}

describe('the index and its family', () => {
  it('MRX40: put-rich all year, a sell-off in July and a slow calm, the front bid before the rate decision', async () => {
    const held = await snapshotsOf('MRX40');
    expect(held.every(({ riskReversal25 }) => riskReversal25! < -0.008)).toBe(true);
    const highest = held.reduce((a, b) => (b.iv30! > a.iv30! ? b : a));
    expect(highest.asof.slice(0, 7)).toMatch(/2030-0[78]/);
    expect(at(held, '2030-07-16').iv30! / at(held, '2030-07-15').iv30!).toBeGreaterThan(1.3);
    expect(at(held, '2030-09-30').iv30!).toBeLessThan(0.75 * highest.iv30!);
    const [front, second] = await surface('MRX40');
    expect(front!.expiry).toBe('2031-03-20');
    expect(front!.atmVol!).toBeGreaterThan(second!.atmVol! + 0.01);
    const { events } = await get('/underlyings/MRX40/events', EventsResponse);
    expect(events.some(({ start, kind }) => start?.startsWith('2031-03-20') && kind === 'rates')).toBe(true);
  });
  it('MERI: a tenth of the index, wider and thinner', async () => {
    const [index, fund] = [await latest('MRX40'), await latest('MERI')];
    expect(fund.price! * 10).toBeCloseTo(index.price!, 0);
    expect(tightness(fund)).toBeGreaterThan(2.5 * tightness(index));
    expect((await one('MERI')).volume!).toBeLessThan(0.2 * (await one('MRX40')).volume!);
    expect(await one('MERI')).toMatchObject({ family: 'MRX40', familyRatio: 0.1, kind: 'etf' });
  });
  it('MXF: six deliveries of the index, none of them below it', async () => {
    const index = await one('MRX40');
    const futures = (await rows).filter(({ root }) => root === 'MXF');
    expect(futures).toHaveLength(6);
    for (const { family, price, iv30 } of futures) {
      expect(family).toBe('MRX40');
      expect(price!).toBeGreaterThan(index.price!);
      expect(Math.abs(iv30! - index.iv30!)).toBeLessThan(0.04);
    }
  });
});

describe('futures and currencies', () => {
  const curve = async (product: string) =>
    (await rows)
      .filter(({ root }) => root === product)
      .sort((a, b) => (a.expires! < b.expires! ? -1 : 1))
      .map(({ price, riskReversal25 }) => ({ price: price!, riskReversal25: riskReversal25! }));
  it('AQF: six deliveries, each cheaper than the one before, call-rich', async () => {
    const deliveries = await curve('AQF');
    expect(deliveries).toHaveLength(6);
    for (let i = 1; i < 6; i++) expect(deliveries[i]!.price).toBeLessThan(deliveries[i - 1]!.price);
    for (const { riskReversal25 } of deliveries) expect(riskReversal25).toBeGreaterThan(0.005);
  });
  it('WNH: each dearer than the one before, vol that knows the season', async () => {
    const deliveries = await curve('WNH');
    expect(deliveries).toHaveLength(6);
    for (let i = 1; i < 6; i++) expect(deliveries[i]!.price).toBeGreaterThan(deliveries[i - 1]!.price);
    const held = await snapshotsOf('WNHU31');
    const ofMonths = (months: string) =>
      mean(held.filter(({ asof }) => months.includes(asof.slice(5, 7))).map(({ iv30 }) => iv30!));
    expect(ofMonths('12 01 02')).toBeGreaterThan(1.25 * ofMonths('06 07 08'));
  });
  it('ICRLUN: the skew changes its sign in the year, mirrored in the inverse pair', async () => {
    const [pair, inverse] = [await snapshotsOf('ICRLUN'), await snapshotsOf('LUNICR')];
    const tilts = pair.map(({ riskReversal25 }) => riskReversal25!);
    expect(Math.max(...tilts)).toBeGreaterThan(0.005);
    expect(Math.min(...tilts)).toBeLessThan(-0.005);
    for (const { asof, riskReversal25, price } of pair) {
      const other = inverse.find((row) => row.asof === asof)!;
      expect(Math.abs(riskReversal25! + other.riskReversal25!), asof).toBeLessThan(0.006);
      expect(price! * other.price!).toBeCloseTo(1, 3);
    }
  });
});

describe('shares', () => {
  it('TIDL: the lowest rank of the year', async () => {
    const ranks = (await rows)
      .filter(({ rankSessions }) => rankSessions === 252)
      .map(({ symbol, rank }) => [symbol, rank!] as const);
    const lowest = ranks.reduce((a, b) => (b[1] < a[1] ? b : a));
    expect(lowest[0]).toBe('TIDL');
    expect(lowest[1]).toBeLessThan(0.1);
  });
  it('KELQ: dividends of more than 6 % a year, so that forwards fall with the expiry', async () => {
    const { events } = await get('/underlyings/KELQ/events', EventsResponse);
    const year = events.filter(({ date, amount }) => amount !== null && date > '2030-03-13' && date <= '2031-03-13');
    expect(year.reduce((sum, { amount }) => sum + amount!, 0) / (await one('KELQ')).price!).toBeGreaterThan(0.06);
    const slices = await surface('KELQ');
    expect(slices.at(-1)!.forward!).toBeLessThan(slices[0]!.forward!);
  });
  it('AURG is rich and ZEPR is cheap against what they do', async () => {
    expect((await one('AURG')).ivToHv!).toBeGreaterThan(1.35);
    expect((await one('ZEPR')).ivToHv!).toBeLessThan(0.95);
    const average = async (symbol: string) => {
      const { rows: history } = await get(`/underlyings/${symbol}/history?series=iv30,hv20.yz`, HistoryResponse);
      const both = history.filter((row) => row['iv30'] != null && row['hv20.yz'] != null);
      return mean(both.map((row) => (row['iv30'] as number) / (row['hv20.yz'] as number)));
    };
    expect(await average('AURG')).toBeGreaterThan(1.35);
    expect(await average('ZEPR')).toBeLessThan(0.95);
  });
  it('LMNQ: the front over the back before results, and vol that fell after each of the last ones', async () => {
    expect(await one('LMNQ')).toMatchObject({ termState: 'backwardation' });
    const slices = await surface('LMNQ');
    const ahead = slices.find(({ expiry }) => expiry === '2031-03-27')!;
    expect(ahead.atmVol!).toBeGreaterThan(slices.at(-1)!.atmVol! + 0.1);
    const held = await snapshotsOf('LMNQ');
    for (const [before, after] of [
      ['2030-06-20', '2030-06-21'],
      ['2030-09-19', '2030-09-20'],
      ['2030-12-19', '2030-12-20'],
    ] as const) {
      expect(at(held, after).iv30! / at(held, before).iv30!, after).toBeLessThan(0.9);
    }
  });
  it('FOGH: call-rich, vol over 100 %', async () => {
    const { iv30, riskReversal25 } = await one('FOGH');
    expect(iv30!).toBeGreaterThan(1);
    expect(riskReversal25!).toBeGreaterThan(0.05);
    expect(at(await snapshotsOf('FOGH'), '2031-02-14').riskReversal25!).toBeLessThan(0);
  });
  it('PELG: two humps in the density of the expiry after the trial', async () => {
    const { slices } = await latest('PELG');
    const { strike, call, put, fit } = slices.find(({ fit: { expiry } }) => expiry === '2031-05-15')!;
    // The slope of the price by strike is the probability of ending above: little is lost where a hollow is.
    const price = (level: number) => {
      const i = strike.indexOf(level);
      const [callMid, putMid] = [0.5 * (call.bid[i]! + call.ask[i]!), 0.5 * (put.bid[i]! + put.ask[i]!)];
      return level < fit.forward! ? putMid + fit.discount * (fit.forward! - level) : callMid;
    };
    const mass = (from: number, to: number) => {
      const above = (level: number) => (price(level - 2) - price(level + 2)) / 4 / fit.discount;
      return (above(from) - above(to)) / (to - from);
    };
    const [low, hollow, high] = [mass(16, 20), mass(26, 32), mass(40, 46)];
    expect(low).toBeGreaterThan(1.5 * hollow);
    expect(high).toBeGreaterThan(1.5 * hollow);
  });
  it('NACR: vol collapsed with the bid, the price is pinned under 62', async () => {
    const held = await snapshotsOf('NACR');
    expect(at(held, '2031-01-20').iv30!).toBeGreaterThan(0.25);
    const since = held.filter(({ asof }) => asof > '2031-02-01');
    for (const { iv30, price } of since) {
      expect(iv30!).toBeLessThan(0.1);
      expect(price!).toBeGreaterThan(58);
      expect(price!).toBeLessThan(62.5);
    }
  });
  it('OSPR: against the water, and beyond its expected move two weeks in a row', async () => {
    const [airline, water] = [await closes('OSPR'), await closes('AQFM31')];
    const days = [...airline.keys()].filter((day) => water.has(day));
    const moves = (of: Map<string, number>) =>
      days.slice(1).map((day, i) => Math.log(of.get(day)! / of.get(days[i]!)!));
    const [x, y] = [moves(airline), moves(water)];
    const [mx, my] = [mean(x), mean(y)];
    const covariance = mean(x.map((value, i) => (value - mx) * (y[i]! - my)));
    const deviation = (of: number[], m: number) => Math.sqrt(mean(of.map((value) => (value - m) ** 2)));
    expect(covariance / deviation(x, mx) / deviation(y, my)).toBeLessThan(-0.3);
    // From Thursday to Thursday, the expiries of the weeks.
    for (const [from, to] of [
      ['2031-02-27', '2031-03-06'],
      ['2031-03-06', '2031-03-13'],
    ] as const) {
      const { slices, price } = await get(`/underlyings/OSPR/snapshots/${from}T16:45:00Z`, SnapshotResponse);
      const week = slices.find(({ fit: { expiry } }) => expiry === to)!;
      const later = await get(`/underlyings/OSPR/snapshots/${to}T16:45:00Z`, SnapshotResponse);
      expect(Math.abs(later.price! - price!), to).toBeGreaterThan(week.fit.straddleMove!);
    }
  });
  it('CAIR: a textbook contango, vol that returns to its mean', async () => {
    expect((await one('CAIR')).termState).toBe('contango');
    const vols = (await surface('CAIR')).map(({ atmVol }) => atmVol!);
    expect(vols.at(-1)!).toBeGreaterThan(vols[0]!);
    const held = (await snapshotsOf('CAIR')).map(({ iv30 }) => iv30!);
    const mid = mean(held);
    // It crosses its mean again and again.
    expect(held.filter((vol, i) => i > 0 && vol > mid !== held[i - 1]! > mid).length).toBeGreaterThan(8);
  });
  it('DRFT: adjusted strikes and a multiplier of 10', async () => {
    expect((await one('DRFT')).multiplier).toBe(10);
    const { slices } = await latest('DRFT');
    expect(slices[0]!.strike.every((level) => Math.abs((level * 2) % 1) > 1e-9)).toBe(true);
  });
  it('GYRB: trending up with falling vol; one day is missing', async () => {
    const held = await snapshotsOf('GYRB');
    // One share of the beginning is two by now.
    expect((2 * held.at(-1)!.price!) / held[0]!.price!).toBeGreaterThan(1.3);
    const vols = held.map(({ iv30 }) => iv30!);
    expect(mean(vols.slice(0, 60))).toBeGreaterThan(1.4 * mean(vols.slice(-60)));
    expect(held.some(({ asof }) => asof.startsWith('2030-11-12'))).toBe(false);
    expect(held.some(({ asof }) => asof.startsWith('2030-11-13'))).toBe(true);
  });
  it('QUAY: few strikes, wide, zero bids, one expiry that speaks of another price', async () => {
    const { slices, measures, price } = await latest('QUAY');
    expect(measures.usable! / measures.contracts!).toBeLessThan(0.75);
    expect(Math.max(...slices.map(({ strike }) => strike.length))).toBeLessThan(15);
    const zero = slices.reduce((sum, { fit }) => sum + fit.refused[3]!, 0);
    expect(zero).toBeGreaterThan(5);
    const broken = slices.find(({ fit }) => fit.expiry === '2031-06-19')!;
    expect(broken.fit.expiryAside).toBe('broken-forward');
    // Calls and puts of a strike far from the money tell: sold and bought against each other they make a dear forward.
    const tradeable = broken.strike.flatMap((strike, i) =>
      broken.call.bid[i]! > 0 ? [strike + (broken.call.bid[i]! - broken.put.ask[i]!) / broken.fit.discount] : [],
    );
    expect(Math.max(...tradeable) / price!).toBeGreaterThan(1.03);
  });
  it('REFS: high vol, the most traded of all shares, an expiry of the day itself', async () => {
    const all = await rows;
    const refs = all.find(({ symbol }) => symbol === 'REFS')!;
    expect(refs.iv30!).toBeGreaterThan(0.5);
    for (const { symbol, kind, volume } of all) {
      if (kind === 'equity' && symbol !== 'REFS') expect(volume!).toBeLessThan(refs.volume!);
    }
    const [today] = (await latest('REFS')).slices;
    expect(today!.fit.expiry).toBe('2031-03-13');
    // A quarter of an hour is left.
    expect(today!.fit.years * 525_600).toBeCloseTo(15, 9);
    expect(today!.fit.atmVol!).toBeGreaterThan(0.3);
  });
  it('SLTH: pays monthly, skew nearly flat', async () => {
    const { events } = await get('/underlyings/SLTH/events', EventsResponse);
    const year = events.filter(({ date, amount }) => amount !== null && date > '2030-03-13' && date <= '2031-03-13');
    expect(year).toHaveLength(12);
    expect(Math.abs((await one('SLTH')).riskReversal25!)).toBeLessThan(0.01);
  });
});

describe('what happens to shares', () => {
  const interestOf = ({ slices }: z.infer<typeof SnapshotResponse>) =>
    slices
      .flatMap(({ call, put }) => [...call.openInterest, ...put.openInterest])
      .reduce<number>((sum, contracts) => sum + (contracts ?? 0), 0);
  const snapshotAt = (symbol: string, day: string) =>
    get(`/underlyings/${symbol}/snapshots/${day}T16:45:00Z`, SnapshotResponse);
  const volsOf = async (symbol: string, from: string, to: string) => {
    const { rows: history } = await get(
      `/underlyings/${symbol}/history?series=hv20.yz&from=${from}&to=${to}`,
      HistoryResponse,
    );
    return history.map((row) => row['hv20.yz'] as number);
  };

  it('GYRB: two for one, contracts adjusted, vols undisturbed', async () => {
    const [before, after] = [await snapshotAt('GYRB', '2030-09-06'), await snapshotAt('GYRB', '2030-09-09')];
    expect(before.price! / after.price!).toBeGreaterThan(1.8);
    expect(before.price! / after.price!).toBeLessThan(2.2);
    // Twice as many contracts at half the strikes.
    expect(interestOf(after) / interestOf(before)).toBeGreaterThan(1.7);
    const strikes = (snapshot: typeof after) => snapshot.slices.find(({ fit }) => fit.expiry === '2030-10-17')!.strike;
    const halved = new Set(strikes(before).map((strike) => strike / 2));
    expect(strikes(after).filter((strike) => halved.has(strike)).length).toBeGreaterThan(0.8 * strikes(after).length);
    // A halved price that counted as a move would be a vol of 200 % and more.
    for (const vol of await volsOf('GYRB', '2030-09-02', '2030-09-30')) expect(vol).toBeLessThan(0.8);
    expect(Math.abs(after.measures.iv30! - before.measures.iv30!)).toBeLessThan(0.03);
    // Nor does a formula over past prices take it for a move.
    const column = encodeURIComponent('price / ago(price, 20) - 1');
    const { rows: screened } = await get(`/screen?column=${column}&asof=2030-09-20T16:45:00Z`, ScreenResponse);
    expect(Math.abs(screened.find(({ symbol }) => symbol === 'GYRB')!.columns[0]!)).toBeLessThan(0.3);
  });
  it('AURG: a special dividend lowers the strikes and leaves the carry alone', async () => {
    const [before, after] = [await snapshotAt('AURG', '2030-10-11'), await snapshotAt('AURG', '2030-10-14')];
    const november = (snapshot: typeof after) => snapshot.slices.find(({ fit }) => fit.expiry === '2030-11-21')!;
    const lowered = new Set(november(before).strike.map((strike) => Number((strike - 3.2).toFixed(6))));
    expect(november(after).strike.every((strike) => lowered.has(strike) || strike < Math.min(...lowered))).toBe(true);
    // Holders of contracts are paid by the strike: the forward of before is that of carry without the dividend.
    const { forward } = november(before).fit;
    expect(forward! / before.price! - 1).toBeGreaterThan(0);
    for (const vol of await volsOf('AURG', '2030-10-07', '2030-10-31')) expect(vol).toBeLessThan(0.3);
  });
  it('DRFT: a session without a trade has neither a chain nor a bar', async () => {
    const held = await snapshotsOf('DRFT');
    const isHeld = (day: string) => held.some(({ asof }) => asof.startsWith(day));
    expect(['2030-08-20', '2030-08-21', '2030-08-22'].map(isHeld)).toEqual([true, false, true]);
    const days = await closes('DRFT');
    expect(['2030-08-20', '2030-08-21', '2030-08-22'].map((day) => days.has(day))).toEqual([true, false, true]);
  });
  it('HRBR: bought for cash, and listed no longer since November; its last chain is kept', async () => {
    const held = await snapshotsOf('HRBR');
    expect(held.at(-1)!.asof.slice(0, 10)).toBe('2030-10-31');
    expect(at(held, '2030-09-03').iv30!).toBeLessThan(0.5 * at(held, '2030-08-30').iv30!);
    expect((await latest('HRBR')).slices.length).toBeGreaterThan(0);
    expect((await one('HRBR')).expires).toBe('2030-11-01');
    const listedAt = async (asof: string) =>
      (await get(`/screen?column=iv30${asof}`, ScreenResponse)).rows.map(({ symbol }) => symbol);
    expect(await listedAt('&asof=2030-10-31T16:45:00Z')).toContain('HRBR');
    expect(await listedAt('')).not.toContain('HRBR');
  });
});

describe('funds', () => {
  it('ISLX: steeper than the index', async () => {
    expect((await one('ISLX')).riskReversal25!).toBeLessThan(1.5 * (await one('MRX40')).riskReversal25!);
  });
  it('SPAR: implied far over realized, few expiries', async () => {
    expect((await one('SPAR')).ivToHv!).toBeGreaterThan(1.4);
    expect((await surface('SPAR')).length).toBeLessThanOrEqual(4);
  });
  it('LEEW: vol under 8 %', async () => {
    expect((await snapshotsOf('LEEW')).every(({ iv30 }) => iv30! < 0.08)).toBe(true);
  });
});

/** Measures of the last moment of each session. */
async function sessionsOf(symbol: string) {
  const held = await snapshotsOf(symbol);
  return held.filter(({ asof }, i) => asof.slice(0, 10) !== held[i + 1]?.asof.slice(0, 10));
}
const correlation = (x: readonly number[], y: readonly number[]) => {
  const [mx, my] = [mean(x), mean(y)];
  const sizeOf = (of: readonly number[], m: number) => Math.sqrt(mean(of.map((value) => (value - m) ** 2)));
  return mean(x.map((value, i) => (value - mx) * (y[i]! - my))) / sizeOf(x, mx) / sizeOf(y, my);
};
const lagged = (of: readonly number[], lag: number) => correlation(of.slice(lag), of.slice(0, -lag));
const returnsOf = (prices: readonly number[]) => prices.slice(1).map((price, i) => Math.log(price / prices[i]!));

/** What markets are known to do: the figures are common practice. */
describe('it behaves like a market', () => {
  const leverageOf = async (symbol: string) => {
    const held = await sessionsOf(symbol);
    const changes = held.slice(1).map(({ iv30 }, i) => iv30! - held[i]!.iv30!);
    return correlation(returnsOf(held.map(({ price }) => price!)), changes);
  };
  it('implied rises when prices fall: about −0.7 for the index, −0.2 to −0.5 for most names', async () => {
    expect(await leverageOf('MRX40')).toBeLessThan(-0.6);
    const names = await Promise.all(['CAIR', 'KELQ', 'TIDL', 'ZEPR', 'DRFT', 'REFS', 'OSPR'].map(leverageOf));
    expect(mean(names)).toBeLessThan(-0.25);
    expect(mean(names)).toBeGreaterThan(-0.55);
  });
  it('large moves of the index come together, its returns have no memory', async () => {
    const returns = returnsOf([...(await closes('MRX40')).values()]);
    const sizes = returns.map(Math.abs);
    const clustering = mean([1, 2, 3, 4, 5].map((lag) => lagged(sizes, lag)));
    expect(clustering).toBeGreaterThan(0.15);
    expect(clustering).toBeLessThan(0.35);
    // Two standard errors of 259 returns.
    expect(Math.abs(lagged(returns, 1))).toBeLessThan(0.125);
  });
  it('implied stands over what follows by one to three points, where no story says otherwise', async () => {
    const gapOf = async (symbol: string) => {
      const held = await sessionsOf(symbol);
      const returns = returnsOf(held.map(({ price }) => price!));
      const HORIZON = 21;
      return mean(
        held.slice(0, -HORIZON).map(({ iv30 }, i) => {
          const after = returns.slice(i, i + HORIZON).map((move) => move ** 2);
          return iv30! - Math.sqrt(252 * mean(after));
        }),
      );
    };
    const index = await gapOf('MRX40');
    expect(index).toBeGreaterThan(0.008);
    expect(index).toBeLessThan(0.03);
    const names = await Promise.all(['CAIR', 'KELQ', 'DRFT', 'QUAY', 'SLTH', 'ISLX', 'REFS', 'LMNQ'].map(gapOf));
    expect(mean(names)).toBeGreaterThan(0.01);
    expect(mean(names)).toBeLessThan(0.03);
  });
  it('one deviation is exceeded about three days in ten', async () => {
    const held = await sessionsOf('MRX40');
    const returns = returnsOf(held.map(({ price }) => price!));
    const beyond = returns.filter((move, i) => Math.abs(move) > held[i]!.iv30! / Math.sqrt(252)).length;
    expect(beyond / returns.length).toBeGreaterThan(0.22);
    expect(beyond / returns.length).toBeLessThan(0.36);
  });
  it('the lean of the index is three to six points at its usual vol, more in the sell-off', async () => {
    const held = await sessionsOf('MRX40');
    const leans = held.map(({ riskReversal25 }) => riskReversal25!);
    expect(mean(leans)).toBeGreaterThan(-0.06);
    expect(mean(leans)).toBeLessThan(-0.03);
    expect(at(held, '2030-07-16').riskReversal25!).toBeLessThan(1.5 * mean(leans));
    const small = (await sessionsOf('ISLX')).map(({ riskReversal25 }) => riskReversal25!);
    expect(mean(small)).toBeGreaterThan(-0.1);
  });
  it('of the index about three puts are traded for two calls', async () => {
    const { slices } = await latest('MRX40');
    const total = (side: 'call' | 'put') =>
      slices.reduce((sum, slice) => sum + slice[side].volume.reduce((all: number, one) => all + (one ?? 0), 0), 0);
    expect(total('put') / total('call')).toBeGreaterThan(1.25);
    expect(total('put') / total('call')).toBeLessThan(1.8);
  });
  it('near deliveries move more than far ones, and not quite alike', async () => {
    for (const root of ['AQF', 'WNH']) {
      const months = await Promise.all(['J', 'M', 'Q', 'U'].map((letter) => sessionsOf(`${root}${letter}31`)));
      const returns = months.map((held) => returnsOf(held.map(({ price }) => price!)));
      const realized = returns.map((moves) => Math.sqrt(mean(moves.map((move) => move ** 2))));
      const implied = months.map((held) => mean(held.map(({ iv30 }) => iv30!)));
      for (const order of [realized, implied]) {
        expect(
          order.every((value, i) => i === 0 || value < order[i - 1]!),
          root,
        ).toBe(true);
      }
      expect(correlation(returns[0]!, returns[3]!)).toBeLessThan(0.985);
    }
  });
  it('open interest changes between sessions alone, by no more than was traded, and most of it is round', async () => {
    const chainAt = async (asof: string) => {
      const { contracts } = await get(`/underlyings/CAIR/chain?expiry=2031-04-17&asof=${asof}`, ChainResponse);
      return new Map(contracts.map((contract) => [`${contract.strike} ${contract.side}`, contract]));
    };
    const [before, morning, evening] = [
      await chainAt('2031-03-12T16:45:00Z'),
      await chainAt('2031-03-13T11:00:00Z'),
      await chainAt('2031-03-13T16:45:00Z'),
    ];
    let compared = 0;
    for (const [name, now] of evening) {
      expect(now.openInterest, name).toBe(morning.get(name)!.openInterest);
      const then = before.get(name);
      // A planted stale quote has lost its volume.
      if (!then?.volume) continue;
      compared++;
      expect(Math.abs(now.openInterest! - then.openInterest!), name).toBeLessThanOrEqual(then.volume);
      if (now.volume! > 0) expect(now.volume!, name).toBeGreaterThanOrEqual(morning.get(name)!.volume!);
    }
    expect(compared).toBeGreaterThan(10);
    const interest = (isRound: boolean) => {
      const own = [...evening.values()].filter(({ strike }) => (strike % 10 === 0) === isRound);
      return mean(own.map(({ openInterest }) => openInterest ?? 0));
    };
    expect(interest(true)).toBeGreaterThan(1.3 * interest(false));
  });
  it('the sell-off, the rate decision and what follows results are held by the quarter hour', async () => {
    const momentsOf = async (symbol: string, day: string) =>
      (await snapshotsOf(symbol)).filter(({ asof }) => asof.startsWith(day));
    const selling = await momentsOf('MRX40', '2030-07-16');
    expect(selling).toHaveLength(26);
    expect(selling.at(-1)!.iv30! / selling[0]!.iv30!).toBeGreaterThan(1.2);
    expect(selling.at(-1)!.price!).toBeLessThan(selling[0]!.price!);
    expect(await momentsOf('MRX40', '2030-12-19')).toHaveLength(26);
    for (const day of ['2030-12-19', '2030-12-20']) expect(await momentsOf('LMNQ', day), day).toHaveLength(26);
  });
});

describe('statistics of the whole', () => {
  it('vol clusters, falls bring it up, spreads follow liquidity, open interest builds', async () => {
    const { rows: history } = await get('/underlyings/MRX40/history?series=close,iv30', HistoryResponse);
    const days = history.filter((row) => row['close'] != null && row['iv30'] != null);
    const moves = days.slice(1).map((row, i) => Math.log((row['close'] as number) / (days[i]!['close'] as number)));
    const vols = days.map((row) => row['iv30'] as number);
    // A calm week is followed by a calm one.
    const [mv, n] = [mean(vols), vols.length - 5];
    const lagged = mean(vols.slice(0, n).map((vol, i) => (vol - mv) * (vols[i + 5]! - mv)));
    expect(lagged / mean(vols.map((vol) => (vol - mv) ** 2))).toBeGreaterThan(0.5);
    const changes = vols.slice(1).map((vol, i) => vol - vols[i]!);
    expect(mean(moves.map((move, i) => move * changes[i]!))).toBeLessThan(0);
    const order = await Promise.all(['MRX40', 'CAIR', 'QUAY'].map(async (symbol) => tightness(await latest(symbol))));
    expect(order[0]!).toBeLessThan(order[1]!);
    expect(order[1]!).toBeLessThan(order[2]!);
    const interest = async (asof: string) => {
      const { contracts } = await get(
        `/underlyings/MRX40/chain?expiry=2031-03-20&asof=${asof}T16:45:00Z`,
        ChainResponse,
      );
      return contracts.reduce((sum, { openInterest }) => sum + (openInterest ?? 0), 0);
    };
    expect(await interest('2031-03-12')).toBeGreaterThan(await interest('2030-09-12'));
  });
});
