import { describe, expect, it } from 'vitest';
import type { z } from 'zod';
import { FinderResponse, MarketEvaluateResponse, TemplatesResponse } from '../../web/src/lib/api/schemas';
import { get, post, problemOf, request } from './client';

type Row = z.infer<typeof FinderResponse>['rows'][number];

const find = (body: object) => post('/finder', body, FinderResponse);
const refused = (body: object, status: number) =>
  problemOf('/finder', status, { method: 'POST', body: JSON.stringify(body) });

const CONDORS = {
  symbols: ['AURG'],
  kinds: ['vertical-credit', 'iron-condor'],
  days: [20, 65],
  legs: { delta: [0.1, 0.32], wing: [0.2, 1.2] },
  fill: { slippage: 0.3 },
};

const wordsOf = ({ symbol, legs }: Row) =>
  `${symbol} ${legs.map(({ quantity, expiry, strike, side }) => `${quantity} ${expiry} ${strike} ${side}`).join()}`;

describe('POST /finder', () => {
  it('says of a row what its structure is evaluated at', async () => {
    const { rows, made } = await find({
      ...CONDORS,
      kinds: [...CONDORS.kinds, 'calendar', 'straddle'],
      top: { each: 1 },
    });
    expect(made).toBeGreaterThan(rows.length);
    for (const kind of ['vertical-credit', 'iron-condor', 'calendar']) {
      const row = rows.find((one) => one.kind === kind)!;
      const told = await post(
        `/underlyings/${row.symbol}/structures/evaluate`,
        {
          legs: row.legs.map(({ expiry, settlement, strike, side, quantity }) => ({
            expiry,
            settlement,
            strike,
            side,
            quantity,
          })),
          fill: CONDORS.fill,
        },
        MarketEvaluateResponse,
      );
      expect(row.cost).toBeCloseTo(told.entry, 9);
      expect(row.maxProfit!).toBeCloseTo(told.maxProfit!, 5);
      expect(row.capital!).toBeCloseTo(told.capitalAtRisk!, 5);
      // What early exercise adds is interpolated.
      expect(row.greeks.delta!).toBeCloseTo(told.greeks.delta!, 4);
      expect(row.greeks.vega!).toBeCloseTo(told.greeks.vega!, 4);
      const odds = (basis: string) => told.odds.find((one) => one.basis === basis)!;
      expect(row.probabilityOfProfit!).toBeCloseTo(odds('curve').profit!, 6);
      expect(row.odds.past!).toBeCloseTo(odds('past').profit!, 6);
    }
  });

  it('keeps rows in falling score, whose shares sum to it, within limits that say what they leave out alone', async () => {
    const limits = ['probabilityOfProfit >= 60%', 'edge.past > 0.05 * capital'];
    const all = await find(CONDORS);
    const found = await find({ ...CONDORS, limits, top: { all: 5000 } });
    expect(found.made).toBe(all.made);
    expect(found.rows).toHaveLength(found.within);
    const scores = found.rows.map(({ score }) => score);
    expect(scores).toEqual(scores.toSorted((a, b) => b - a));
    for (const { score, shares, probabilityOfProfit, edges, capital } of found.rows) {
      expect(shares.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(score, 9);
      expect(probabilityOfProfit!).toBeGreaterThanOrEqual(0.6);
      expect(edges.past.money!).toBeGreaterThan(0.05 * capital!);
      expect(edges.past.ofRisk!).toBeCloseTo(edges.past.money! / capital!, 12);
    }
    expect(found.leftOut.map(({ limit }) => limit)).toEqual(limits);
    // What both leave out together is no more than the two alone.
    const [first, second] = found.leftOut.map(({ count }) => count) as [number, number];
    expect(found.made - found.within).toBeLessThanOrEqual(first + second);
    expect(found.made - found.within).toBeGreaterThanOrEqual(Math.max(first, second));
    // Ranks are among all that were made: a limit changes no score.
    const scoreOf = new Map(all.rows.map((row) => [wordsOf(row), row.score]));
    const both = found.rows.filter((row) => scoreOf.has(wordsOf(row)));
    expect(both.length).toBeGreaterThan(0);
    for (const row of both) expect(row.score).toBeCloseTo(scoreOf.get(wordsOf(row))!, 9);
  });

  it('asks the underlying for what is its own', async () => {
    const among = { ...CONDORS, symbols: ['AURG', 'LMNQ'] };
    const [high, low] = await Promise.all(
      ['rank(iv30, 252) > 0.5', 'not (rank(iv30, 252) > 0.5)'].map((limit) => find({ ...among, limits: [limit] })),
    );
    const screen = await request('/screen?column=rank(iv30,%20252)&filter=rank(iv30,%20252)%20%3E%200.5');
    const { rows } = (await screen.json()) as { rows: { symbol: string }[] };
    const passing = new Set(rows.map(({ symbol }) => symbol));
    for (const { symbol } of high!.rows) expect(passing.has(symbol), symbol).toBe(true);
    for (const { symbol } of low!.rows) expect(passing.has(symbol), symbol).toBe(false);
    expect(high!.within + low!.within).toBe(high!.made);
  });

  it('looks everywhere, and says of whom nothing was found and why', async () => {
    const { rows, skipped } = await find({ ...CONDORS, symbols: undefined, top: { each: 1, per: 'underlying' } });
    const symbols = rows.map(({ symbol }) => symbol);
    expect(new Set(symbols).size).toBe(symbols.length);
    expect(symbols.length).toBeGreaterThan(5);
    for (const { symbol, why } of skipped) {
      expect(symbols).not.toContain(symbol);
      expect(why).not.toBe('');
    }
  });

  it('at a past moment knows what became of a row', async () => {
    const asof = '2031-01-15T20:00:00Z';
    const { rows } = await find({ ...CONDORS, asof, kinds: ['vertical-credit'], top: { each: 3 } });
    const known = rows.filter(({ became }) => became !== null);
    expect(known.length).toBeGreaterThan(0);
    for (const { legs, settled, cost, became } of known) {
      const pays = legs.reduce(
        (sum, { quantity, strike, side }) =>
          sum + quantity * Math.max(0, (side === 'call' ? 1 : -1) * (settled! - strike!)),
        -cost!,
      );
      expect(became!).toBeCloseTo(pays, 10);
    }
    // Of what has not ended nothing is known.
    expect((await find({ ...CONDORS, top: { all: 5 } })).rows.every(({ became }) => became === null)).toBe(true);
  });

  it('answers as a table, a row a line, and as events', async () => {
    const ask = (query: string, accept: string) =>
      request(`/finder${query}`, {
        method: 'POST',
        headers: { accept },
        body: JSON.stringify({ ...CONDORS, top: { all: 4 } }),
      });
    const table = await (await ask('?format=csv', '*/*')).text();
    const [heads, ...lines] = table.trim().split('\r\n');
    expect(heads).toContain('edges.past.money');
    expect(lines).toHaveLength(4);
    const streamed = await ask('', 'application/x-ndjson');
    expect(streamed.headers.get('content-type')).toBe('application/x-ndjson');
    const rows = (await streamed.text())
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Row);
    const { rows: plain } = await find({ ...CONDORS, top: { all: 4 } });
    expect(rows.map(wordsOf)).toEqual(plain.map(wordsOf));
    const events = await (await ask('', 'text/event-stream')).text();
    const last = events.trim().split('\n\n').at(-1)!;
    expect(last.startsWith('event: found\ndata: ')).toBe(true);
    const answer = FinderResponse.parse(JSON.parse(last.split('\ndata: ')[1]!));
    expect(answer.rows.map(wordsOf)).toEqual(plain.map(wordsOf));
  });

  it('refuses what cannot be looked for, and where that stands', async () => {
    expect((await refused({ ...CONDORS, symbols: ['NOWHERE'] }, 422)).errors).toMatchObject([{ path: 'symbols.0' }]);
    expect((await refused({ screen: 'no such screen' }, 422)).errors).toMatchObject([{ path: 'screen' }]);
    const formula = await refused({ ...CONDORS, limits: ['touch < 50%', 'nothing > 1'] }, 422);
    expect(formula.errors).toMatchObject([{ path: 'limits.1' }]);
    expect(formula.detail).toContain('at character 1');
    for (const [body, path] of [
      [{ ...CONDORS, kinds: ['sombrero'] }, 'kinds.0'],
      [{ ...CONDORS, days: [60, 20] }, 'days'],
      [{ ...CONDORS, rank: [{ measure: 'touch', weight: 0 }] }, 'rank'],
      [{ ...CONDORS, screen: 'both' }, 'screen'],
    ] as const)
      expect((await refused(body, 400)).errors, path).toMatchObject([{ path }]);
  });
});

describe('templates', () => {
  it('are kept by name, by version, and deleted', async () => {
    const asked = { kinds: ['straddle'], limits: ['announcements >= 1'], rank: [{ measure: 'touch', weight: -1 }] };
    const name = 'Before results';
    const kept = await post('/finder/templates', { name, asked }, TemplatesResponse);
    const mine = kept.templates.find((one) => one.name === name)!;
    expect(mine.asked).toMatchObject(asked);
    const again = { method: 'POST', body: JSON.stringify({ name, asked }) };
    await problemOf('/finder/templates', 409, again);
    const changed = { name, asked: { ...asked, kinds: ['strangle'] }, version: mine.version };
    const next = await post('/finder/templates', changed, TemplatesResponse);
    expect(next.templates.find((one) => one.name === name)).toMatchObject({
      version: 2,
      asked: { kinds: ['strangle'] },
    });
    const wrong = { ...again, body: JSON.stringify({ name: 'Wrong', asked: { ...asked, limits: ['nothing > 1'] } }) };
    expect((await problemOf('/finder/templates', 422, wrong)).errors).toMatchObject([{ path: 'limits.0' }]);
    expect((await request(`/finder/templates/${mine.id}`, { method: 'DELETE' })).status).toBe(200);
    const left = await get('/finder/templates', TemplatesResponse);
    expect(left.templates.map((one) => one.name)).not.toContain(name);
  });
});
