/**
 * Thousands of underlyings for the benchmarks of screens: bars and measures by session of a made-up market, written as imports
 * and derivations write them, but without the chains that they would come from.
 */
import { performance } from 'node:perf_hooks';

const LAST = Date.UTC(2031, 2, 13);
const DAY_MS = 86_400_000;
const KINDS = /** @type {const} */ (['equity', 'equity', 'equity', 'etf', 'index', 'future', 'fx']);

/** Numbers between 0 and 1, the same every time (mulberry32). @param {number} seed */
function randomOf(seed) {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A standard normal number (G. Box and M. Muller). @param {() => number} random */
const normal = (random) => Math.sqrt(-2 * Math.log(random() || 1e-12)) * Math.cos(2 * Math.PI * random());

/** The last sessions, weekends left out. @param {number} count */
function sessionDays(count) {
  const days = [];
  for (let at = LAST; days.length < count; at -= DAY_MS) {
    const weekday = new Date(at).getUTCDay();
    if (weekday !== 0 && weekday !== 6) days.push(new Date(at).toISOString().slice(0, 10));
  }
  return days.reverse();
}

export const symbolOf = (/** @type {number} */ n) => `U${String(n).padStart(4, '0')}`;

/**
 * Bars and measures of one underlying: a volatility that reverts to its mean, returns with a market in them, and implied vols
 * that follow both.
 *
 * @param {number} n
 * @param {readonly string[]} days
 * @param {readonly number[]} market returns of the market by session
 */
function pathOf(n, days, market) {
  const random = randomOf(7919 * n + 1);
  const mean = 0.12 + 0.5 * random();
  const beta = 0.3 + 1.2 * random();
  const symbol = symbolOf(n);
  let price = 20 + 180 * random();
  let logVol = Math.log(mean);
  /** @type {Record<string, unknown>[]} */
  const bars = [];
  /** @type {Record<string, unknown>[]} */
  const measures = [];
  days.forEach((date, i) => {
    logVol += 0.05 * (Math.log(mean) - logVol) + 0.06 * normal(random);
    const vol = Math.exp(logVol);
    const day = vol / Math.sqrt(252);
    const open = price * Math.exp(0.3 * day * normal(random));
    const close = price * Math.exp(beta * (market[i] ?? 0) + 0.8 * day * normal(random));
    const reach = 0.5 * day * Math.abs(normal(random));
    const high = Math.max(open, close) * (1 + reach);
    const low = Math.min(open, close) * (1 - reach);
    bars.push({ symbol, date, open, high, low, close, volume: Math.round(1e6 * random()) });
    const iv30 = vol * (1 + 0.15 * normal(random) * 0.3 + 0.1);
    const slope = 0.02 * normal(random) * iv30 + 0.01;
    const wing = -0.03 - 0.02 * random();
    const asof = new Date(`${date}T16:45:00.000Z`);
    measures.push({
      ...{ symbol, asof, price: close },
      ...{ iv7: iv30 - slope, iv30, iv60: iv30 + 0.6 * slope, iv90: iv30 + slope },
      ...{ iv180: iv30 + 1.3 * slope, iv360: iv30 + 1.5 * slope, varianceIndex: 102 * iv30 },
      ...{ riskReversal25: wing, butterfly25: 0.01, riskReversal10: 1.7 * wing, butterfly10: 0.03, termSlope: slope },
      ...{ frontExpiry: days[Math.min(days.length - 1, i + 5 - (i % 5))] },
      ...{ frontStraddleMove: 0.8 * close * iv30 * 0.14, frontDeviationMove: close * iv30 * 0.14 },
      ...{ contracts: 200, usable: 180, volume: Math.round(5000 * random()), putVolume: Math.round(2000 * random()) },
      ...{ openInterest: 40_000, putOpenInterest: 18_000, rmse: 0.001, quality: 60 + 40 * random(), method: 5 },
    });
    price = close;
  });
  return { bars, measures };
}

/**
 * Writes so many underlyings; the first one with more sessions than the others.
 *
 * @param {import('../../web/src/lib/server/db').Database} database
 * @param {{ underlyings: number, sessions: number, longest: number }} extent
 * @returns {Promise<{ rows: number, seconds: number }>}
 */
export async function fillUniverse(database, { underlyings, sessions, longest }) {
  const { copyRows, ensurePartitions, inTransaction, monthsOf, tables } =
    await import('../../web/src/lib/server/db/index.ts');
  const started = performance.now();
  const all = sessionDays(longest);
  const random = randomOf(1);
  const market = all.map(() => 0.008 * normal(random));
  const months = monthsOf(all.map((day) => new Date(`${day}T12:00:00Z`)));
  await inTransaction(database, (session) => ensurePartitions(database, session, months));
  const batch = 100;
  let rows = 0;
  for (let from = 0; from < underlyings; from += batch) {
    const numbers = Array.from({ length: Math.min(batch, underlyings - from) }, (_, i) => from + i);
    await inTransaction(database, async (session) => {
      await session.insert(tables.underlyings).values(
        numbers.map((n) => ({
          ...{ symbol: symbolOf(n), name: `Underlying ${n}`, kind: KINDS[n % KINDS.length] ?? 'equity' },
          ...{
            multiplier: 100,
            exercise: /** @type {const} */ ('american'),
            calendar: 'MRX',
            family: `F${n % 900}`,
            tick: 0.01,
          },
        })),
      );
      const paths = numbers.map((n) => {
        const count = n === 0 ? longest : sessions;
        return pathOf(n, all.slice(-count), market.slice(-count));
      });
      const bars = paths.flatMap((path) => path.bars);
      const measures = paths.flatMap((path) => path.measures);
      await copyRows(session, tables.bars, /** @type {any} */ (bars));
      await copyRows(session, tables.measures, /** @type {any} */ (measures));
      const heads = measures.map(({ symbol, asof, price }) => ({
        ...{ symbol, asof, price, contracts: 200, digest: '', importId: 0 },
      }));
      await copyRows(session, tables.snapshots, /** @type {any} */ (heads));
      rows += bars.length + measures.length;
    });
  }
  await database.execute('ANALYZE');
  return { rows, seconds: (performance.now() - started) / 1000 };
}

/** Sixty columns: what is stored, historical vols, ranks and formulas. */
export const SIXTY_COLUMNS = [
  ...['price', 'iv7', 'iv30', 'iv60', 'iv90', 'iv180', 'iv360', 'index', 'rr25', 'bf25', 'rr10', 'bf10', 'slope'],
  ...['move', 'deviation', 'volume', 'putvolume', 'oi', 'putoi', 'contracts', 'usable', 'quality', 'before', 'front'],
  ...['hv10.yz', 'hv20.yz', 'hv30.yz', 'hv60.yz', 'hv90.yz', 'hv20.close', 'hv20.gk', 'hv20.pk'],
  ...['price / before - 1', 'rank(iv30, 252)', 'pct(iv30, 252)', 'low(iv30, 252)', 'high(iv30, 252)', 'z(iv30, 252)'],
  ...['iv30 / hv20.yz', 'iv30 - hv20.yz', 'iv30 / hv60.yz', 'change(iv30, 1)', 'change(iv30, 5)', 'change(iv30, 20)'],
  ...['volume / avg(volume, 20)', 'putvolume / (volume - putvolume)', 'putoi / (oi - putoi)', 'avg(volume, 20)'],
  ...['iv30 / sqrt(252)', 'move / price', 'abs(change(price, 5)) / ago(move, 5)', 'change(rr25, 20)'],
  ...['rank(rr25, 120)', 'rank(slope, 120)', 'iv7 - iv90', 'sd(iv30, 60)', 'rr25 - avg(rr25, 60)'],
  ...['index - iv30', 'iv90 / iv30', 'rank(iv30 / hv20.yz, 120)'],
];

/** Three conditions that leave about two of three. */
export const THREE_FILTERS = ['quality > 62', 'rank(iv30, 252) < 90%', 'iv30 / hv20.yz > 0.8'];
