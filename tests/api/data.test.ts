import { describe, expect, it } from 'vitest';
import {
  constantMaturityVol,
  impliedVol,
  priceContract,
  qualityScore,
  rankOf,
  REASONS,
  yangZhangVol,
} from '@umwelt/core';
import {
  BorrowingsResponse,
  ChainResponse,
  CurvesResponse,
  EventsResponse,
  HistoryResponse,
  HoldingsResponse,
  SnapshotResponse,
  SnapshotsResponse,
  SurfaceResponse,
  UnderlyingMeasures,
  UnderlyingsResponse,
} from '../../web/src/lib/api/schemas';
import { get, post, problemOf, request } from './client';

const universe = async (query = '') => (await get(`/underlyings${query}`, UnderlyingsResponse)).underlyings;
const one = async (symbol: string) => (await universe()).find((row) => row.symbol === symbol)!;

describe('underlyings', () => {
  it('rank, percentile, hv20 and change can be worked out from what the API holds', async () => {
    const row = await one('CAIR');
    const { snapshots } = await get('/underlyings/CAIR/snapshots', SnapshotsResponse);
    // A snapshot a session, and every quarter of an hour on two days, of which the last one counts.
    expect(snapshots).toHaveLength(261 + 2 * 25);
    const isLast = ({ asof }: { asof: string }, i: number) => snapshots[i + 1]?.asof.slice(0, 10) !== asof.slice(0, 10);
    const daily = snapshots.filter(isLast).slice(-252);
    const rank = rankOf(daily.map((snapshot) => snapshot.iv30!))!;
    expect(row.rankSessions).toBe(252);
    expect(row.rank).toBeCloseTo(rank.rank, 12);
    expect(row.percentile).toBeCloseTo(rank.percentile, 12);
    const { rows } = await get('/underlyings/CAIR/history?series=open,high,low,close,hv20.yz', HistoryResponse);
    const bars = rows.filter((bar) => bar['close'] !== null);
    const column = (name: string) => Float64Array.from(bars, (bar) => bar[name] as number);
    const vols = yangZhangVol(
      { open: column('open'), high: column('high'), low: column('low'), close: column('close') },
      20,
    );
    expect(row.hv20).toBeCloseTo(vols.at(-1)!, 12);
    expect(row.ivToHv).toBeCloseTo(row.iv30! / row.hv20!, 12);
    expect(row.change).toBeCloseTo(row.price! / column('close').at(-1)! - 1, 12);
  });
  it('knows nothing of later than the moment asked for', async () => {
    const { snapshots } = await get('/underlyings/CAIR/snapshots', SnapshotsResponse);
    const days = [...new Set(snapshots.map(({ asof }) => asof.slice(0, 10)))];
    const [then] = (await universe('?asof=2031-01-15T16:45:00Z')).filter((row) => row.symbol === 'CAIR');
    expect(then!.asof).toBe('2031-01-15T16:45:00.000Z');
    expect(then!.rankSessions).toBe(days.filter((day) => day <= '2031-01-15').length);
    const { rows } = await get('/underlyings/CAIR/history?to=2031-01-14&series=hv20.yz', HistoryResponse);
    // At 15:45 the session is not over, so the last bar is the one of the day before.
    expect(then!.hv20).toBeCloseTo(rows.at(-1)!['hv20.yz'] as number, 12);
    const before = await universe('?asof=2020-01-01T00:00:00Z');
    expect(before.every((row) => row.asof === null && row.iv30 === null)).toBe(true);
  });
  it('one alone is the same row', async () => {
    expect(await get('/underlyings/LMNQ', UnderlyingMeasures)).toEqual(await one('LMNQ'));
  });
  it('as CSV, without the arrays', async () => {
    const response = await request('/underlyings?format=csv');
    expect(response.headers.get('content-type')).toContain('text/csv');
    const lines = (await response.text()).trim().split('\r\n');
    expect(lines[0]).toMatch(/^symbol,name,kind/);
    expect(lines[0]).not.toContain('series');
    expect(lines.some((line) => line.startsWith('MRX40,Meridian 40 Index,index'))).toBe(true);
  });
});

describe('a snapshot', () => {
  it('agrees with its measures: iv30 lies between its expiries by total variance', async () => {
    const { measures, slices, price } = await get('/underlyings/MRX40/snapshots/latest', SnapshotResponse);
    const points = slices.map(({ fit }) => ({ years: fit.years, vol: fit.atmVol! })).sort((a, b) => a.years - b.years);
    expect(measures.iv30).toBeCloseTo(constantMaturityVol(points, 30 / 365), 12);
    expect(measures.price).toBe(price);
    expect(measures.contracts).toBe(slices.reduce((sum, { fit }) => sum + fit.contracts, 0));
    for (const { fit, strike, call } of slices) {
      expect(fit.refused.reduce((sum, count) => sum + count)).toBe(fit.contracts);
      expect(call.bid).toHaveLength(strike.length);
      expect(fit.forwardSource).toBe('parity');
    }
  });
  it('is the latest at or before a moment', async () => {
    const answer = await get('/underlyings/CAIR/snapshots/2031-03-01T12:00:00Z', SnapshotResponse);
    expect(answer.asof).toBe('2031-02-28T16:45:00.000Z');
  });
  it('unknown symbols, times and moments are told', async () => {
    expect((await problemOf('/underlyings/NOSUCH/chain', 404)).detail).toContain('NOSUCH');
    expect((await problemOf('/underlyings/CAIR/snapshots/soon', 400)).detail).toContain('soon');
    await problemOf('/underlyings/CAIR/surface?asof=2020-01-01T00:00:00Z', 404);
    expect((await problemOf('/underlyings/CAIR/surface?asof=yesterday', 400)).errors![0]!.path).toBe('asof');
  });
});

describe('chain', () => {
  const chain = (query: string) => get(`/underlyings/MRX40/chain?expiry=2031-04-17${query}`, ChainResponse);
  it('own vols price the mid back, by the calculators', async () => {
    const { contracts, expiries } = await chain('&basis=own');
    const [fit] = expiries;
    const priced = contracts.filter((contract) => contract.reason === null);
    expect(priced.length).toBeGreaterThan(40);
    for (const { side, strike, mid, midVol, theory, delta } of priced) {
      const terms = {
        model: 'black-76',
        side,
        forward: fit!.forward!,
        strike,
        years: fit!.years,
        rate: fit!.rate,
      } as const;
      expect(Math.abs(theory! - mid!)).toBeLessThan(1e-9 * 4208);
      expect(priceContract({ ...terms, vol: midVol! }).price).toBeCloseTo(mid!, 9);
      const again = impliedVol({ ...terms, price: mid! });
      expect('vol' in again && again.vol).toBeCloseTo(midVol!, 10);
      expect(Math.sign(delta!)).toBe(side === 'call' ? 1 : -1);
    }
  });
  it('call less put is the discounted forward less the strike, on one vol for both', async () => {
    const { contracts, expiries } = await chain('&basis=curve');
    const fit = expiries[0]!;
    const calls = contracts.filter((contract) => contract.side === 'call');
    for (const call of calls) {
      const put = contracts.find((contract) => contract.side === 'put' && contract.strike === call.strike)!;
      expect(call.theory! - put.theory!).toBeCloseTo(fit.discount * (fit.forward! - call.strike), 7);
      expect(call.itm! + put.itm!).toBeCloseTo(1, 10);
      expect(call.gamma).toBeCloseTo(put.gamma!, 12);
    }
    // Odds to end over a strike fall with it.
    expect(calls.every((call, i) => i === 0 || call.itm! < calls[i - 1]!.itm!)).toBe(true);
  });
  it('level, index and realized hold one vol for all strikes', async () => {
    const row = await one('MRX40');
    const latest = (await get('/underlyings/MRX40/snapshots', SnapshotsResponse)).snapshots.at(-1)!;
    for (const [basis, vol] of [
      ['level', null],
      ['realized', row.hv20],
      ['index', latest.varianceIndex! / 100],
    ] as const) {
      const { contracts, expiries } = await chain(`&basis=${basis}`);
      const vols = new Set(contracts.map((contract) => contract.vol!.toFixed(12)));
      expect(vols).toEqual(new Set([(vol ?? expiries[0]!.atmVol!).toFixed(12)]));
    }
  });
  it('planted faults have reasons, and no vols unless they are only set aside', async () => {
    const { contracts } = await get('/underlyings/MRX40/chain', ChainResponse);
    const refused = contracts.filter((contract) => contract.reason !== null);
    expect(refused.length).toBeGreaterThan(0);
    const hasVol = ['stale', 'off-curve', 'off-parity', 'by-hand'];
    for (const { midVol, reason } of refused) expect(midVol !== null, reason!).toBe(hasVol.includes(reason!));
    expect(refused.map((contract) => contract.reason)).toContain('crossed');
    expect(refused.map((contract) => contract.reason)).toContain('zero-bid');
  });
  it('refuses a basis and an expiry that do not exist', async () => {
    expect((await problemOf('/underlyings/MRX40/chain?basis=magic', 400)).errors![0]!.path).toBe('basis');
    await problemOf('/underlyings/MRX40/chain?expiry=2031-04-18', 404);
  });
});

describe('surface and history', () => {
  it('forward vols add up to the far variance', async () => {
    const { term, slices, calendarArbitrage } = await get('/underlyings/LMNQ/surface', SurfaceResponse);
    expect(calendarArbitrage).toEqual([]);
    const years = slices.map((slice) => slice.years);
    const variance = term.reduce(
      (sum, point, i) => sum + point.forwardVol! ** 2 * (years[i]! - (years[i - 1] ?? 0)),
      0,
    );
    expect(variance).toBeCloseTo(term.at(-1)!.atmVol! ** 2 * years.at(-1)!, 10);
    expect(term.map((point) => point.class)).toContain('weekly');
    // Results between the first expiry and the second carry what the stretch has over its ambient vol.
    const stretch = years[1]! - years[0]!;
    expect(term[0]!.eventMove).toBeNull();
    expect(term[1]!.eventMove! ** 2).toBeCloseTo((term[1]!.forwardVol! ** 2 - term[1]!.ambientVol! ** 2) * stretch, 12);
    expect(term[1]!.lean).toBe('put-rich');
    expect(term.every(({ slope }) => slope! < 0)).toBe(true);
    for (const slice of slices) {
      expect(slice.points.length).toBeGreaterThan(5);
      for (const point of slice.points) expect(point.side).toBe(point.strike < slice.forward! ? 'put' : 'call');
    }
  });
  it('curves over time are those of each snapshot, by session or by moment', async () => {
    const path = '/underlyings/LMNQ/curves?from=2031-03-12T00:00:00Z&to=2031-03-13T16:45:00Z';
    const { moments, expiries } = await get(path, CurvesResponse);
    expect(moments).toHaveLength(2);
    const { slices } = await get('/underlyings/LMNQ/snapshots/latest', SnapshotResponse);
    const last = expiries.moment.flatMap((moment, i) => (moment === 1 ? [i] : []));
    expect(last.map((i) => expiries.expiry[i])).toEqual(slices.map(({ fit }) => fit.expiry));
    last.forEach((i, at) => {
      const { fit, strike } = slices[at]!;
      expect(expiries.parameters[i]).toEqual(fit.curve!.parameters);
      expect([expiries.kind[i], expiries.atmVol[i], expiries.lowest[i]]).toEqual([
        fit.curve!.kind,
        fit.atmVol,
        strike[0],
      ]);
    });
    expect((await get(`${path}&step=moment`, CurvesResponse)).moments.length).toBeGreaterThan(20);
    expect(
      (await get(path.replace('2031-03-12', '2031-03-13').replace('16:45', '00:01'), CurvesResponse)).moments,
    ).toEqual([]);
    // Listed strikes around the forward come where they are asked for.
    expect(expiries.near.every((strikes) => strikes === null)).toBe(true);
    const near = (await get(`${path}&strikes=3`, CurvesResponse)).expiries;
    last.forEach((i, at) => {
      const { fit, strike } = slices[at]!;
      const over = strike.findIndex((level) => level >= fit.forward!);
      const around = near.near[i]!;
      expect(around.filter((level) => level < fit.forward!).slice(-3)).toEqual(
        strike.slice(Math.max(0, over - 3), over),
      );
      expect(around.filter((level) => level >= fit.forward!)).toEqual(strike.slice(over, over + 3));
    });
    expect((await problemOf(`${path}&strikes=-1`, 400)).errors![0]!.path).toBe('strikes');
    expect((await problemOf('/underlyings/LMNQ/curves?from=now', 400)).errors![0]!.path).toBe('from');
    await problemOf(path.replace('LMNQ', 'NONE'), 404);
  });
  it('history holds what is asked for, and names what it does not know', async () => {
    const { rows, series } = await get('/underlyings/MRX40/history?series=iv30,close&from=2031-03-10', HistoryResponse);
    expect(series).toEqual(['iv30', 'close']);
    expect(rows.map((row) => row.date)).toEqual(['2031-03-10', '2031-03-11', '2031-03-12', '2031-03-13']);
    expect(rows.at(-1)!['close']).toBeNull();
    expect(rows.at(-1)!['iv30']).toBeGreaterThan(0.1);
    expect((await problemOf('/underlyings/MRX40/history?series=iv31', 400)).errors![0]!.path).toBe('series');
  });
  it('events are the dividends and the announcements', async () => {
    const cair = await get('/underlyings/CAIR/events', EventsResponse);
    expect(cair.events.map((event) => event.amount)).toContain(0.85);
    const lmnq = await get('/underlyings/LMNQ/events', EventsResponse);
    expect(lmnq.events.find((event) => event.date === '2031-03-21')).toMatchObject({ kind: 'results', amount: null });
  });
});

describe('borrowed curves', () => {
  const path = '/underlyings/MERI/borrowings';
  const at = { expiry: '2031-05-15', settlement: 'pm' };
  const fitOf = async (symbol: string) =>
    (await get(`/underlyings/${symbol}/snapshots/latest`, SnapshotResponse)).slices.find(
      ({ fit }) => fit.expiry === at.expiry,
    )!.fit;

  it('are laid over the fit, everywhere theory is asked for, and taken away again', async () => {
    const own = await fitOf('MERI');
    const lender = await fitOf('MRX40');
    const request = { ...at, version: null, borrowing: { source: 'MRX40', volShift: 0.01 } };
    const { borrowings } = await post(path, request, BorrowingsResponse);
    expect(borrowings).toEqual([
      {
        ...request.borrowing,
        ...at,
        symbol: 'MERI',
        version: 1,
        sourceExpiry: null,
        map: 'forward',
        ratio: null,
        offset: 0,
        slope: 0,
        curvature: 0,
      },
    ]);
    const borrowed = await fitOf('MERI');
    expect(borrowed.atmVol).toBeCloseTo(lender.atmVol! + 0.01, 10);
    expect(borrowed.borrowed).toMatchObject({ source: 'MRX40', takenFrom: at.expiry, isArbitrageFree: true });
    const chain = await get(`/underlyings/MERI/chain?expiry=${at.expiry}`, ChainResponse);
    const near = chain.contracts.find(({ strike, side }) => strike === 420 && side === 'put')!;
    expect(Math.abs(near.vol! - borrowed.atmVol!)).toBeLessThan(0.01);
    // Another moment borrows of the same moment, and other expiries keep their own curves.
    const before = await get('/underlyings/MERI/snapshots/2031-03-10T16:45:00Z', SnapshotResponse);
    const source = await get('/underlyings/MRX40/snapshots/2031-03-10T16:45:00Z', SnapshotResponse);
    const then = (snapshot: typeof before) => snapshot.slices.find(({ fit }) => fit.expiry === at.expiry)!.fit.atmVol!;
    expect(then(before)).toBeCloseTo(then(source) + 0.01, 10);
    expect(before.slices.filter(({ fit }) => fit.borrowed)).toHaveLength(1);
    // So do the curves over time.
    const past = '/underlyings/MERI/curves?from=2031-03-10T00:00:00Z&to=2031-03-10T23:00:00Z';
    const { expiries } = await get(past, CurvesResponse);
    const row = expiries.expiry.indexOf(at.expiry);
    expect([expiries.kind[row], expiries.borrowedFrom[row]]).toEqual(['borrowed', `MRX40 ${at.expiry}`]);
    expect(expiries.atmVol[row]).toBeCloseTo(then(before), 10);
    expect(expiries.borrowedFrom.filter(Boolean)).toHaveLength(1);
    // What it would lend itself is its own curve.
    const lent = (await get(`${past}&own=true`, CurvesResponse)).expiries;
    expect([lent.kind[row], lent.borrowedFrom[row]]).not.toContain('borrowed');
    expect(lent.borrowedFrom.filter(Boolean)).toHaveLength(0);
    expect(Math.abs(lent.atmVol[row]! - then(before))).toBeGreaterThan(0.001);

    expect((await post(path, { ...at, version: 1, borrowing: null }, BorrowingsResponse)).borrowings).toEqual([]);
    expect(await fitOf('MERI')).toEqual(own);
  });

  it('are refused where they make no sense, and change nothing', async () => {
    const refused = async (borrowing: object, where: string) => {
      const { errors } = await problemOf(path, 400, {
        method: 'POST',
        body: JSON.stringify({ ...at, version: null, borrowing }),
      });
      expect(errors![0]!.path).toBe(where);
    };
    await refused({ source: 'NOBODY' }, 'borrowing.source');
    await refused({ source: 'MERI' }, 'borrowing.sourceExpiry');
    await refused({ source: 'MRX40', volShift: 40 }, 'borrowing.volShift');
    await refused({ source: 'MRX40', map: 'magic' }, 'borrowing.map');
    await refused({ source: 'MRX40', map: 'price', ratio: -1 }, 'borrowing.ratio');
    expect((await get(path, BorrowingsResponse)).borrowings).toEqual([]);
    await problemOf('/underlyings/NOBODY/borrowings', 404);
  });
});

describe('quality', () => {
  const latest = (symbol: string) => get(`/underlyings/${symbol}/snapshots/latest`, SnapshotResponse);
  const asideOf = ({ slices }: Awaited<ReturnType<typeof latest>>) =>
    slices.flatMap(({ fit }) => fit.aside.map((one) => ({ ...one, expiry: fit.expiry, settlement: fit.settlement })));
  const verdict = (symbol: string, body: object) => post(`/underlyings/${symbol}/verdicts`, body, SnapshotResponse);
  const nameOf = (code: number) => REASONS[code];

  it('finds what was planted: a stale strike, a quote of the wrong side, an expiry with a broken forward', async () => {
    for (const symbol of ['CAIR', 'LMNQ', 'MRX40', 'REFS', 'FOGH']) {
      const found = asideOf(await latest(symbol)).map(({ reason }) => nameOf(reason));
      expect(found, symbol).toContain('off-parity');
      expect(found.length, symbol).toBeLessThan(4);
    }
    const stale = await Promise.all(
      ['MRX40', 'LMNQ', 'REFS', 'FOGH', 'PELG'].map(async (symbol) =>
        asideOf(await latest(symbol)).filter(({ reason }) => nameOf(reason) === 'stale'),
      ),
    );
    expect(stale.map((of) => of.length)).toEqual([1, 1, 1, 1, 1]);
    const broken = (await latest('QUAY')).slices.filter(({ fit }) => fit.expiryAside !== null);
    expect(broken.map(({ fit }) => [fit.expiry, fit.expiryAside])).toEqual([['2031-06-19', 'broken-forward']]);
    // Nothing else of the whole world is thought broken.
    for (const { symbol } of (await universe()).filter((row) => row.rankSessions === 252 && row.symbol !== 'QUAY')) {
      const { slices } = await latest(symbol);
      expect(
        slices.filter(({ fit }) => fit.expiryAside !== null).map(({ fit }) => fit.expiry),
        symbol,
      ).toEqual([]);
    }
  });

  it('who sets aside what somebody else has just set aside is told', async () => {
    const { asof, slices } = await latest('MERI');
    const { fit, strike } = slices[1]!;
    const what = { asof, expiry: fit.expiry, settlement: fit.settlement, strike: strike[3], side: 'call' };
    const aside = (wasAside: boolean, verdict: string | null) => ({ ...what, verdict, wasAside });
    await verdict('MERI', aside(false, 'aside'));
    const body = JSON.stringify(aside(false, 'aside'));
    const headers = { 'content-type': 'application/json' };
    const { current } = await problemOf('/underlyings/MERI/verdicts', 409, { method: 'POST', headers, body });
    expect(current).toEqual({ isAside: true });
    expect(asideOf(await verdict('MERI', aside(true, null)))).toEqual(asideOf({ ...(await latest('MERI')), slices }));
  });

  it('the score is the weighted sum of its parts, and that of the underlying the mean by contracts', async () => {
    const { slices, measures } = await latest('QUAY');
    for (const { fit } of slices) expect(fit.quality).toBeCloseTo(qualityScore(fit.qualityParts), 9);
    const used = slices.filter(({ fit }) => fit.expiryAside === null);
    const sum = used.reduce((total, { fit }) => total + fit.contracts * fit.quality!, 0);
    expect(measures.quality).toBeCloseTo(sum / measures.contracts, 9);
    expect(measures.quality!).toBeLessThan((await latest('MRX40')).measures.quality! - 30);
  });

  it('a contract is put back by hand, set aside by hand, and left to the rule again', async () => {
    const before = await latest('CAIR');
    const [found] = asideOf(before).filter(({ reason }) => nameOf(reason) === 'off-parity');
    const { expiry, settlement, strike, side } = found!;
    const what = { asof: before.asof, expiry, settlement, strike, side };
    const used = await verdict('CAIR', { ...what, verdict: 'use' });
    expect(asideOf(used).some((one) => one.strike === strike && one.side === side && one.expiry === expiry)).toBe(
      false,
    );
    expect(used.measures.usable).toBe(before.measures.usable + 1);
    const other = { ...what, strike: strike === 110 ? 115 : 110, side: 'call' };
    const aside = await verdict('CAIR', { ...other, verdict: 'aside' });
    expect(asideOf(aside).map(({ reason }) => nameOf(reason))).toContain('by-hand');
    await verdict('CAIR', { ...other, verdict: null });
    expect(await verdict('CAIR', { ...what, verdict: null })).toEqual(before);
  });

  it('an expiry set aside leaves the measures, and comes back', async () => {
    const before = await latest('CAIR');
    const { expiry, settlement } = before.slices[1]!.fit;
    const what = { asof: before.asof, expiry, settlement };
    const without = await verdict('CAIR', { ...what, verdict: 'aside' });
    expect(without.slices[1]!.fit.expiryAside).toBe('by-hand');
    expect(without.measures.iv30).not.toBe(before.measures.iv30);
    expect(await verdict('CAIR', { ...what, verdict: null })).toEqual(before);
    const quay = await latest('QUAY');
    const broken = quay.slices.find(({ fit }) => fit.expiryAside !== null)!.fit;
    const at = { asof: quay.asof, expiry: broken.expiry, settlement: broken.settlement };
    const used = await verdict('QUAY', { ...at, verdict: 'use' });
    expect(used.slices.every(({ fit }) => fit.expiryAside === null)).toBe(true);
    expect(await verdict('QUAY', { ...at, verdict: null })).toEqual(quay);
  });

  it('what is set aside to last holds for the moments after it, until it is taken back', async () => {
    const moments = ['2031-03-11T16:45:00Z', '2031-03-12T16:45:00Z', '2031-03-13T16:45:00Z'];
    const fitAt = async (moment: string) =>
      (await get(`/underlyings/TIDL/snapshots/${moment}`, SnapshotResponse)).slices.find(
        ({ fit }) => fit.expiry === '2031-06-19',
      )!.fit;
    const before = await Promise.all(moments.map(fitAt));
    const what = { expiry: '2031-06-19', settlement: 'pm' };
    const states = async () => (await Promise.all(moments.map(fitAt))).map(({ expiryAside }) => expiryAside);
    await verdict('TIDL', { ...what, asof: moments[1], verdict: 'aside', lasting: true });
    await expect.poll(states).toEqual([null, 'by-hand', 'by-hand']);
    // Taken back later, it never was: the moments between are derived anew too.
    await verdict('TIDL', { ...what, asof: moments[2], verdict: null, lasting: true });
    await expect.poll(states).toEqual([null, null, null]);
    expect(await Promise.all(moments.map(fitAt))).toEqual(before);
  });

  it('what is not held cannot be judged', async () => {
    const { asof } = await latest('CAIR');
    const send = (body: object) => ({ method: 'POST', body: JSON.stringify({ asof, verdict: 'aside', ...body }) });
    await problemOf('/underlyings/CAIR/verdicts', 404, send({ expiry: '2031-04-18' }));
    await problemOf('/underlyings/CAIR/verdicts', 404, send({ expiry: '2031-04-17', strike: 1, side: 'call' }));
    await problemOf('/underlyings/CAIR/verdicts', 400, send({ expiry: '2031-04-17', strike: 110 }));
  });

  it('what is held is told by session, with its holes', async () => {
    const { sessions, underlyings } = await get('/holdings', HoldingsResponse);
    expect(sessions).toHaveLength(261);
    const row = (symbol: string) => underlyings.find((one) => one.symbol === symbol)!;
    expect(row('CAIR').moments.reduce((sum, count) => sum + count)).toBe(311);
    expect(row('CAIR').moments.at(-1)).toBe(26);
    expect(row('CAIR').holes).toEqual([]);
    expect(row('GYRB').holes).toEqual(['2030-11-12']);
    expect(row('CAIR').quality.at(-1)).toBeCloseTo((await latest('CAIR')).measures.quality!, 9);
    expect(row('CAIR').bars).toBe(260);
    expect(row('CAIR').prints).toBeGreaterThan(300);
  });
});
