import { rankOf } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import {
  HistoryResponse,
  KeptScreensResponse,
  ScreenResponse,
  SnapshotsResponse,
  UnderlyingsResponse,
} from '../../web/src/lib/server/api/schemas';
import { get, post, problemOf, request } from './client';

const screen = (body: { asof?: string; columns?: string[]; filters?: string[] }) =>
  post('/screen', body, ScreenResponse);

describe('formulas over all underlyings', () => {
  it('are worth what the other answers say', async () => {
    const { underlyings } = await get('/underlyings', UnderlyingsResponse);
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
    const found = await screen({ columns: ['iv30', 'iv30 / hv20.yz'], filters });
    const passes = found.rows.map(({ columns: [iv30, ratio] }) => [(iv30 ?? 0) > 0.3, (ratio ?? 0) > 1] as const);
    expect(found.left).toBe(passes.filter(([a, b]) => a && b).length);
    expect(found.filters.map(({ removed }) => removed)).toEqual([
      passes.filter(([a]) => !a).length,
      passes.filter(([, b]) => !b).length,
    ]);
    expect(found.left).toBeGreaterThan(0);
    expect(found.left).toBeLessThan(found.rows.length);
    const early = await screen({ asof: '2000-01-01T00:00:00Z', columns: ['iv30'], filters: ['iv30 > 0'] });
    expect(early.left).toBe(0);
    expect(early.rows.every(({ filters: [isIn] }) => isIn === null)).toBe(true);
  });
  it('that make no sense are told with their place', async () => {
    const body = JSON.stringify({ columns: ['iv30', 'iv31 + 1'], filters: ['iv30'] });
    const { errors } = await problemOf('/screen', 400, { method: 'POST', body });
    expect(errors).toEqual([
      { path: 'columns.1', message: 'at character 1: there is no measure “iv31”' },
      { path: 'filters.0', message: 'at character 1: a filter is a condition, such as iv30 > 20%' },
    ]);
    await problemOf('/screen', 400, { method: 'POST', body: JSON.stringify({ columns: Array(30).fill('iv30') }) });
  });
});

describe('screens that are kept', () => {
  it('by name, replaced by another of the same, and let go', async () => {
    const first = { name: 'Test of screens', columns: ['iv30'], filters: ['iv30 > 20%'] };
    const held = async () =>
      (await get('/screens', KeptScreensResponse)).screens.filter(({ name }) => name === first.name);
    await post('/screens', first, KeptScreensResponse);
    expect(await held()).toMatchObject([first]);
    await post('/screens', { ...first, name: '  Test of screens ', columns: ['iv90'] }, KeptScreensResponse);
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
    expect((await of({ name: 'x', columns: [], filters: [] })).errors![0]!.path).toBe('columns');
    expect((await of({ name: ' ', columns: ['iv30'], filters: [] })).errors![0]!.path).toBe('name');
  });
});
