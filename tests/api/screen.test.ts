import { changesOf, rankOf, togetherOf, type Side } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import type { z } from 'zod';
import {
  ChainResponse,
  ConesResponse,
  HistoryResponse,
  KeptScreensResponse,
  PeersResponse,
  ScreenResponse,
  SkewsResponse,
  SurfaceResponse,
  type ScreenRequest,
  SnapshotsResponse,
  UnderlyingsResponse,
} from '../../web/src/lib/api/schemas';
import { get, post, problemOf, request } from './client';

const screen = (body: z.input<typeof ScreenRequest>) => post('/screen', body, ScreenResponse);

describe('formulas over all underlyings', () => {
  it('are worth what the other answers say', async () => {
    const known = await get('/underlyings', UnderlyingsResponse);
    const underlyings = known.underlyings.filter(({ expires }) => expires === null || expires >= '2031-03-13');
    const { rows, columns } = await screen({
      columns: ['iv30', 'hv20.yz', 'iv30 / hv20.yz', 'quality', 'rank(iv30, 252)'],
    });
    expect(columns.map(({ unit }) => unit)).toEqual([
      'vol',
      'vol',
      'a plain number',
      'a plain number',
      'a plain number',
    ]);
    expect(rows.map(({ symbol }) => symbol).sort()).toEqual(underlyings.map(({ symbol }) => symbol).sort());
    let compared = 0;
    for (const row of underlyings) {
      const [iv30, hv20, ratio, quality, rank] = rows.find(({ symbol }) => symbol === row.symbol)!.columns;
      expect(iv30, row.symbol).toBe(row.iv30);
      expect(quality, row.symbol).toBe(row.quality);
      if (row.hv20 !== null) expect(hv20, row.symbol).toBeCloseTo(row.hv20, 12);
      if (row.ivToHv !== null) expect(ratio, row.symbol).toBeCloseTo(row.ivToHv, 12);
      if (row.rank !== null) expect(rank, row.symbol).toBeCloseTo(row.rank, 12);
      compared += row.rank === null ? 0 : 1;
    }
    expect(compared).toBeGreaterThan(20);
  });
  it('look back over sessions, by hand, also from a day of the past', async () => {
    const asof = '2030-10-04T20:00:00Z';
    const { rows } = await screen({
      asof,
      columns: ['change(iv30, 5)', 'rank(iv30, 60)', 'avg(hv10.close, 3)', 'price'],
    });
    const { snapshots } = await get('/underlyings/CAIR/snapshots', SnapshotsResponse);
    const bySession = new Map(
      snapshots.filter((one) => one.asof <= asof).map((one) => [one.asof.slice(0, 10), one] as const),
    );
    const held = [...bySession.values()];
    const [change, rank, average, price] = rows.find(({ symbol }) => symbol === 'CAIR')!.columns;
    expect(change).toBeCloseTo(held.at(-1)!.iv30! - held.at(-6)!.iv30!, 12);
    expect(rank).toBeCloseTo(
      rankOf(
        held.slice(-60).map(({ iv30 }) => iv30 ?? NaN),
        60,
      )!.rank,
      12,
    );
    expect(price).toBe(held.at(-1)!.price);
    // Of the sessions that were over at the last moment held: the fourth of October was not.
    const history = await get('/underlyings/CAIR/history?series=hv10.close&to=2030-10-03', HistoryResponse);
    const vols = history.rows.map((row) => row['hv10.close']).filter((value) => typeof value === 'number');
    expect(average).toBeCloseTo(
      vols.slice(-3).reduce((sum, value) => sum + value / 3, 0),
      12,
    );
  });
  it('are worked out for every session, the last of which is the value now', async () => {
    const { rows } = await post(
      '/screen',
      { columns: ['iv30 / hv20.yz'], series: ['iv30 / hv20.yz', 'iv30'], sessions: 30 },
      ScreenResponse,
    );
    const { snapshots } = await get('/underlyings/CAIR/snapshots', SnapshotsResponse);
    const bySession = new Map(snapshots.map((one) => [one.asof.slice(0, 10), one.iv30] as const));
    const { columns, series } = rows.find(({ symbol }) => symbol === 'CAIR')!;
    expect(series.map((values) => values.length)).toEqual([30, 30]);
    expect(series[0]!.at(-1)).toBeCloseTo(columns[0]!, 12);
    expect(series[1]).toEqual([...bySession.values()].slice(-30));
    await problemOf('/screen', 400, { method: 'POST', body: JSON.stringify({ series: ['iv30'], sessions: 9999 }) });
  });
  it('leave underlyings out, with what each leaves out alone; what cannot be known does not pass', async () => {
    const filters = ['iv30 > 30%', 'iv30 / hv20.yz > 1'];
    const columns = ['iv30', 'iv30 / hv20.yz'];
    const [all, found] = [await screen({ columns }), await screen({ columns, filters })];
    const passes = all.rows.map(({ columns: [iv30, ratio] }) => [(iv30 ?? 0) > 0.3, (ratio ?? 0) > 1] as const);
    expect(found.left).toBe(passes.filter(([a, b]) => a && b).length);
    expect(found.filters.map(({ removed }) => removed)).toEqual([
      passes.filter(([a]) => !a).length,
      passes.filter(([, b]) => !b).length,
    ]);
    expect(found.left).toBeGreaterThan(0);
    expect(found.left).toBeLessThan(found.looked);
    expect(found.rows).toHaveLength(found.left);
    const early = await screen({ asof: '2000-01-01T00:00:00Z', columns: ['iv30'], filters: ['iv30 > 0'] });
    expect(early.left).toBe(0);
    expect(early.filters[0]!.removed).toBe(early.looked);
  });
  it('that make no sense are told with their place', async () => {
    const body = JSON.stringify({ columns: ['iv30', 'iv31 + 1'], filters: ['iv30'] });
    const { errors } = await problemOf('/screen', 400, { method: 'POST', body });
    expect(errors).toEqual([
      { path: 'columns.1', message: 'at character 1: there is no measure “iv31”' },
      { path: 'filters.0', message: 'at character 1: a filter is a condition, such as iv30 > 20%' },
    ]);
    await problemOf('/screen', 400, { method: 'POST', body: JSON.stringify({ columns: Array(70).fill('iv30') }) });
  });
});

describe('rows of a screen', () => {
  it('come in the order of a formula, what has none last, and as many as are wanted', async () => {
    const { rows } = await screen({ columns: ['iv30'], sort: { by: 'iv30' } });
    const values = rows.map(({ columns: [iv30] }) => iv30);
    const known = values.filter((value) => value !== null);
    expect(values.slice(0, known.length)).toEqual(known.toSorted((a, b) => b! - a!));
    const rising = await screen({ sort: { by: 'symbol', descending: false }, from: 2, count: 3 });
    expect(rising.rows.map(({ symbol }) => symbol)).toEqual(
      rows
        .map(({ symbol }) => symbol)
        .sort()
        .slice(2, 5),
    );
    await problemOf('/screen', 400, { method: 'POST', body: JSON.stringify({ sort: { by: 'iv31' } }) });
  });
  it('are of some kinds, families or symbols alone, with what is next', async () => {
    const futures = await screen({ kinds: ['future'], families: ['AQF'], columns: ['event', 'front'] });
    expect(futures.looked).toBe(futures.rows.length);
    expect(futures.looked).toBeGreaterThan(2);
    expect(futures.rows.every(({ symbol, kind }) => symbol.startsWith('AQF') && kind === 'future')).toBe(true);
    const { rows } = await screen({ symbols: ['LMNQ', 'NONE'], columns: ['event', 'front'] });
    const [{ event, asof, frontExpiry, columns }] = rows as [(typeof rows)[number]];
    expect(rows).toHaveLength(1);
    // Results in six sessions, which are eight days.
    expect((Date.parse(event!.start) - Date.parse(asof!)) / 86_400_000).toBeCloseTo(columns[0]!, 9);
    expect(Math.round(columns[0]!)).toBe(8);
    expect((Date.parse(frontExpiry!) - Date.parse(asof!.slice(0, 10))) / 86_400_000).toBe(columns[1]);
  });
  it('have the puts of the stored quotes, and the close of the session before', async () => {
    const formulas = ['putvolume', 'volume', 'putoi', 'oi', 'before', 'price / before - 1'];
    const { rows } = await screen({ symbols: ['CAIR'], columns: formulas });
    const { contracts } = await get('/underlyings/CAIR/chain', ChainResponse);
    const sum = (wanted: Side, what: 'volume' | 'openInterest') =>
      contracts.filter(({ side }) => side === wanted).reduce((total, one) => total + (one[what] ?? 0), 0);
    const [putVolume, volume, putOi, oi, before, change] = rows[0]!.columns as number[];
    expect([putVolume, volume]).toEqual([sum('put', 'volume'), sum('put', 'volume') + sum('call', 'volume')]);
    expect([putOi, oi]).toEqual([sum('put', 'openInterest'), sum('put', 'openInterest') + sum('call', 'openInterest')]);
    const { rows: history } = await get('/underlyings/CAIR/history?series=close&to=2031-03-12', HistoryResponse);
    expect(before).toBe(history.at(-1)!['close']);
    const { underlyings } = await get('/underlyings', UnderlyingsResponse);
    expect(change).toBeCloseTo(underlyings.find(({ symbol }) => symbol === 'CAIR')!.change!, 12);
  });
  it('come to a spreadsheet by an address', async () => {
    const query = new URLSearchParams({ filter: 'iv30 > 20%', sort: 'iv30', count: '5', format: 'csv' });
    for (const formula of ['iv30', 'iv30 / hv20.yz']) query.append('column', formula);
    const answer = await request(`/screen?${query}`);
    expect(answer.headers.get('content-type')).toContain('text/csv');
    const lines = (await answer.text()).trim().split('\r\n');
    expect(lines[0]).toBe('symbol,name,kind,asof,iv30,iv30 / hv20.yz');
    const { rows } = await screen({ columns: ['iv30'], filters: ['iv30 > 20%'], sort: { by: 'iv30' }, count: 5 });
    expect(lines.slice(1).map((line) => Number(line.split(',')[4]))).toEqual(rows.map(({ columns: [iv30] }) => iv30));
    const json = await get(`/screen?column=iv30&kind=fx&sort=symbol&order=rising`, ScreenResponse);
    expect(json.rows.map(({ symbol }) => symbol)).toEqual(['ICRLUN', 'LUNICR']);
    await problemOf('/screen?column=iv31', 400);
    await problemOf('/screen?kind=bond', 400);
  });
});

describe('underlyings beside each other', () => {
  const own = async (symbol: string, series: string) =>
    (await get(`/underlyings/${symbol}/history?series=${series}`, HistoryResponse)).rows;
  it('are peers by returns and by changes of iv30, which can be worked out from their history', async () => {
    const found = await get('/underlyings/MERI/peers?sessions=60&count=8', PeersResponse);
    expect(found.sessions).toBe(60);
    const index = found.peers.find(({ symbol }) => symbol === 'MRX40')!;
    expect(index).toMatchObject({ isSameFamily: true, isSameKind: false });
    const closes = async (symbol: string) => {
      const { underlyings } = await get('/underlyings', UnderlyingsResponse);
      expect(underlyings.some((one) => one.symbol === symbol)).toBe(true);
      const rows = (await own(symbol, 'close')).filter((row) => row['close'] !== null && row.date < '2031-03-13');
      return rows.slice(-61).map((row) => Math.log(row['close'] as number));
    };
    // The index pays nothing; the fund's own dividends are taken out, so that only their days differ a little.
    const returns = togetherOf(changesOf(await closes('MERI')), changesOf(await closes('MRX40')));
    expect(index.returns).toBeCloseTo(returns.correlation, 2);
    expect(index.beta).toBeCloseTo(returns.slope, 1);
    const vols = async (symbol: string) =>
      (await own(symbol, 'iv30'))
        .filter((row) => row.date < '2031-03-13')
        .slice(-61)
        .map((row) => (row['iv30'] as number) ?? NaN);
    expect(index.vols).toBeCloseTo(
      togetherOf(changesOf(await vols('MERI')), changesOf(await vols('MRX40'))).correlation,
      9,
    );
    const at = found.measures.indexOf('iv30');
    expect(index.impliedBeta).toBeCloseTo((index.returns! * index.measures[at]!) / found.own[at]!, 12);
    expect(found.performance.lines.map(({ values }) => values[0])).toEqual(found.together.symbols.map(() => 100));
    found.together.returns.forEach((row, i) => expect(row[i]).toBeCloseTo(1, 12));
  });
  it('can be peers of other families and of the same kind alone, one of each family', async () => {
    const { peers } = await get('/underlyings/MERI/peers?apart=true&count=40', PeersResponse);
    expect(peers.some(({ isSameFamily }) => isSameFamily)).toBe(false);
    expect(peers.filter(({ symbol }) => symbol.startsWith('AQF'))).toHaveLength(1);
    const alike = await get('/underlyings/CAIR/peers?alike=true&count=40', PeersResponse);
    expect(alike.peers.every(({ kind }) => kind === 'equity')).toBe(true);
    expect(alike.peers.map(({ closeness }) => closeness)).toEqual(
      alike.peers.map(({ closeness }) => closeness).toSorted((a, b) => b - a),
    );
    const early = await get('/underlyings/CAIR/peers?asof=2001-01-01T00:00:00Z', PeersResponse);
    expect(early.peers).toEqual([]);
    await problemOf('/underlyings/CAIR/peers?sessions=3', 400);
    await problemOf('/underlyings/NONE/peers', 404);
  });
  it('have skews of the expiry nearest to thirty days, as the surface has them', async () => {
    const { deviations, skews } = await post('/skews', { symbols: ['MRX40', 'LEEW'] }, SkewsResponse);
    expect(skews.map(({ symbol }) => symbol)).toEqual(['LEEW', 'MRX40']);
    const index = skews[1]!;
    expect(index.vols[deviations.indexOf(0)]).toBeCloseTo(index.atmVol!, 9);
    const surface = await get('/underlyings/MRX40/surface', SurfaceResponse);
    const fits = surface.slices.toSorted((a, b) => Math.abs(a.days - 30) - Math.abs(b.days - 30));
    expect(index.expiry).toBe(fits[0]!.expiry);
    expect(index.atmVol).toBeCloseTo(fits[0]!.atmVol!, 9);
    await problemOf('/skews', 400, { method: 'POST', body: JSON.stringify({ symbols: [] }) });
  });
  it('have cones, whose vols are those of the history', async () => {
    const { windows, cones } = await post('/cones', { symbols: ['CAIR'] }, ConesResponse);
    const [cone] = cones as [(typeof cones)[number]];
    const history = await own('CAIR', 'hv20.yz,close');
    const vols = history
      .filter((row) => row['close'] !== null && row.date < '2031-03-13')
      .slice(-504)
      .map((row) => row['hv20.yz'] as number);
    const at = windows.indexOf(20);
    expect(cone.now[at]).toBeCloseTo(vols.at(-1)!, 12);
    expect(cone.bars).toBe(vols.length);
    expect(cone.quantiles[at]!.at(-1)).toBeCloseTo(
      Math.max(...vols.filter(Number.isFinite).slice(-(vols.length - 20))),
      9,
    );
    expect(cone.term).toHaveLength(6);
  });
});

describe('screens that are kept', () => {
  it('by name, replaced by another of the same by whoever has seen it, and deleted', async () => {
    const first = {
      ...{ name: 'Test of screens', columns: ['iv30', '~iv30 - iv90', 'flags', '*'], filters: ['iv30 > 20%'] },
      ...{ kinds: ['etf'], families: ['MRX40'], sort: 'iv30|rising' },
    };
    const held = async () =>
      (await get('/screens', KeptScreensResponse)).screens.filter(({ name }) => name === first.name);
    await post('/screens', first, KeptScreensResponse);
    expect(await held()).toMatchObject([first]);
    const next = { ...first, name: '  Test of screens ', columns: ['iv90'] };
    const { current } = await problemOf('/screens', 409, { method: 'POST', body: JSON.stringify(next) });
    expect(current).toMatchObject({ ...first, version: 1 });
    await post('/screens', { ...next, version: 1 }, KeptScreensResponse);
    const [screen, ...others] = await held();
    expect(others).toEqual([]);
    expect(screen!.columns).toEqual(['iv90']);
    const answer = await request(`/screens/${screen!.id}`, { method: 'DELETE' });
    expect(answer.status).toBe(200);
    expect(await held()).toEqual([]);
    await problemOf(`/screens/${screen!.id}`, 404, { method: 'DELETE' });
    await problemOf('/screens/none', 404, { method: 'DELETE' });
  });
  it('only where they make sense', async () => {
    const of = (body: object) => problemOf('/screens', 400, { method: 'POST', body: JSON.stringify(body) });
    expect((await of({ name: 'x', columns: ['iv31'], filters: [] })).errors![0]!.path).toBe('columns.0');
    expect((await of({ name: 'x', columns: ['flags', '~iv31'], filters: [] })).errors![0]!.path).toBe('columns.1');
    expect((await of({ name: 'x', columns: [], filters: [] })).errors![0]!.path).toBe('columns');
    expect((await of({ name: ' ', columns: ['iv30'], filters: [] })).errors![0]!.path).toBe('name');
  });
});
