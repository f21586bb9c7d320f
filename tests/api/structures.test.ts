import { describe, expect, it } from 'vitest';
import { ChainResponse, StructuresResponse } from '../../web/src/lib/api/schemas';
import { get, post, problemOf, request } from './client';

const json = (body: unknown): RequestInit => ({ method: 'POST', body: JSON.stringify(body) });
const CAIR_LEG = { expiry: '2031-04-17', strike: 100, side: 'call', quantity: 1 } as const;

describe('structures that are kept', () => {
  const legs = [
    { expiry: '2031-04-17', strike: 4300, side: 'call', quantity: 1 },
    { expiry: '2031-04-17', strike: 4400, side: 'call', quantity: -1 },
  ];
  const send = (method: string, path: string, body?: unknown) =>
    request(path, { method, ...(body !== undefined && { body: JSON.stringify(body) }) });
  it('are kept at what they are worth, changed, deleted and brought back', async () => {
    const { structures } = await post('/structures', { symbol: 'MRX40', legs, note: 'a vertical' }, StructuresResponse);
    const row = structures.at(-1)!;
    const chain = await get('/underlyings/MRX40/chain?expiry=2031-04-17', ChainResponse);
    const of = (strike: number) => chain.contracts.find((one) => one.strike === strike && one.side === 'call')!;
    const [long, short] = [of(4300), of(4400)];
    expect(row.value).toBeCloseTo(long.theory! - short.theory!, 9);
    expect(row.mid).toBeCloseTo(long.mid! - short.mid!, 9);
    expect(row.now).toMatchObject({ missing: null, multiplier: 10 });
    expect(row.now!.worst).toBeCloseTo(long.ask! - short.bid!, 9);
    expect(row.now!.best).toBeCloseTo(long.bid! - short.ask!, 9);
    expect(row.now!.vega).toBeCloseTo(long.vega! - short.vega!, 9);
    await send('PUT', `/structures/${row.id}`, { version: row.version, quantity: -4 });
    const then = '2031-03-12T16:45:00.000Z';
    const earlier = await get(`/structures?asof=${then}`, StructuresResponse);
    const seen = earlier.structures.find(({ id }) => id === row.id)!;
    expect(seen).toMatchObject({ quantity: -4, note: 'a vertical', mid: row.mid, now: { asof: then } });
    const csv = await (await request('/structures?format=csv')).text();
    expect(csv).toContain('+1 2031-04-17 4300 call; -1 2031-04-17 4400 call');
    const left = (await (await send('DELETE', `/structures/${row.id}`)).json()) as { structures: { id: number }[] };
    expect(left.structures.map(({ id }) => id)).not.toContain(row.id);
    const { id, value, mid, created, asof } = row;
    expect((await send('PUT', `/structures/${id}`, { version: 2, quantity: 2 })).status).toBe(404);
    const back = await post(`/structures/${id}/restore`, {}, StructuresResponse);
    expect(back.structures.find((one) => one.id === id)).toMatchObject({ quantity: -4, value, mid, created, asof });
    // Only what was deleted is brought back.
    for (const other of [id, 2 ** 31 - 1]) await problemOf(`/structures/${other}/restore`, 404, json({}));
    await send('DELETE', `/structures/${id}`);
    expect((await send('DELETE', `/structures/${id}`)).status).toBe(404);
  });
  it('of two who change the same the second is told what the first has made of it', async () => {
    const { structures } = await post('/structures', { symbol: 'MRX40', legs, note: 'two hands' }, StructuresResponse);
    const { id, version } = structures.at(-1)!;
    const path = `/structures/${id}`;
    const put = (body: object) => ({ method: 'PUT', body: JSON.stringify(body) });
    const both = await Promise.all([2, 3].map((quantity) => request(path, put({ version, quantity }))));
    expect(both.map(({ status }) => status).sort()).toEqual([200, 409]);
    const { current, detail } = await problemOf(path, 409, put({ version, note: 'late' }));
    expect(detail).toContain('changed since by somebody else');
    expect(current).toMatchObject({ id, note: 'two hands', version: version + 1 });
    await problemOf(path, 400, put({ note: 'blind' }));
    expect((await send('PUT', path, { version: version + 1, note: 'late' })).status).toBe(200);
    await send('DELETE', path);
  });
  it('have legs of other deliveries at what these are worth; of another root they cannot be priced', async () => {
    const legOf = async (symbol: string) => {
      const { contracts, price } = await get(`/underlyings/${symbol}/chain`, ChainResponse);
      return contracts
        .filter(({ side, expiry, mid }) => side === 'put' && expiry === '2031-05-15' && mid !== null)
        .toSorted((a, b) => Math.abs(a.strike - price!) - Math.abs(b.strike - price!))[0]!;
    };
    const [near, far] = [await legOf('AQFM31'), await legOf('AQFU31')];
    const given = ({ expiry, strike, side }: typeof near, quantity: number) => ({ expiry, strike, side, quantity });
    const mixed = [given(near, -2), { ...given(far, 3), symbol: 'AQFU31' }];
    const { structures } = await post('/structures', { symbol: 'AQFM31', legs: mixed }, StructuresResponse);
    const { id, mid, value, legs: kept, now } = structures.at(-1)!;
    expect(kept.map(({ symbol }) => symbol)).toEqual([undefined, 'AQFU31']);
    expect(mid).toBeCloseTo(-2 * near.mid! + 3 * far.mid!, 9);
    expect(value).toBeCloseTo(-2 * near.theory! + 3 * far.theory!, 6);
    expect(now!.worst).toBeCloseTo(-2 * near.bid! + 3 * far.ask!, 9);
    await send('DELETE', `/structures/${id}`);
    const other = { symbol: 'AQFM31', legs: [{ ...given(far, 1), symbol: 'WNHM31' }] };
    expect((await problemOf('/structures', 422, json(other))).detail).toContain('of one root with AQFM31');
  });
  it('one key of a caller makes one, sent as often as he likes', async () => {
    const key = `once ${process.pid}`.replace(' ', '-');
    const keyed = (note: string, name = key) =>
      request('/structures', {
        method: 'POST',
        headers: { 'idempotency-key': name },
        body: JSON.stringify({ symbol: 'MRX40', legs, note }),
      });
    const note = `made once ${process.pid}`;
    const answers = await Promise.all(Array.from({ length: 6 }, () => keyed(note)));
    expect(answers.map(({ status }) => status)).toEqual(Array(6).fill(200));
    const texts = await Promise.all(answers.map((answer) => answer.text()));
    expect(new Set(texts).size).toBe(1);
    const made = async () =>
      (await get('/structures', StructuresResponse)).structures.filter((row) => row.note === note);
    expect(await made()).toHaveLength(1);
    // For another request it does not stand, and one that was refused may be put right.
    expect((await keyed('something else')).status).toBe(422);
    expect((await keyed('x', 'a key with spaces')).status).toBe(400);
    const again = `${key}-again`;
    expect((await keyed('n'.repeat(5000), again)).status).toBe(400);
    expect((await keyed(note, again)).status).toBe(200);
    expect(await made()).toHaveLength(2);
    for (const { id } of await made()) await send('DELETE', `/structures/${id}`);
    const file = { method: 'POST', headers: { 'idempotency-key': key }, body: 'symbol,name,kind\nONCE,Once,index\n' };
    const [first, second] = [await request('/imports', file), await request('/imports', file)];
    expect([first.status, second.status]).toEqual([202, 202]);
    expect(second.headers.get('location')).toBe(first.headers.get('location'));
  });
  it('that cannot be priced are not kept, and what is wrong is named by its place', async () => {
    const count = async () => (await get('/structures', StructuresResponse)).structures.length;
    const before = await count();
    const unlisted = { symbol: 'MRX40', legs: [{ ...legs[0], strike: 4301 }] };
    expect((await problemOf('/structures', 422, json(unlisted))).detail).toContain('has no strike 4301');
    await problemOf('/structures', 404, json({ symbol: 'NONE', legs }));
    const { errors } = await problemOf(
      '/structures',
      400,
      json({ symbol: 'MRX40', legs: [{ ...legs[0], quantity: 0 }] }),
    );
    expect(errors!.map(({ path }) => path)).toContain('legs.0.quantity');
    expect(await count()).toBe(before);
  });
  it('have a name, tags and some of the underlying, and are changed in one of these without the others', async () => {
    const held = 37;
    const given = {
      symbol: 'CAIR',
      legs: [{ ...CAIR_LEG, quantity: -1 }],
      held,
      name: ' covered ',
      tags: ['income', 'income', 'april'],
    };
    const { structures } = await post('/structures', given, StructuresResponse);
    const row = structures.at(-1)!;
    expect(row).toMatchObject({ name: 'covered', tags: ['income', 'april'], held, quantity: 1 });
    const bare = (await post('/structures', { ...given, held: 0 }, StructuresResponse)).structures.at(-1)!;
    const { price, multiplier } = row.now!;
    const units = held / multiplier;
    expect(row.value! - bare.value!).toBeCloseTo(units * price!, 9);
    expect(row.now!.worst! - bare.now!.worst!).toBeCloseTo(units * price!, 9);
    expect(row.now!.delta! - bare.now!.delta!).toBeCloseTo(units, 12);
    expect(row.now!.gamma).toBe(bare.now!.gamma);
    const body = JSON.stringify({ version: row.version, tags: ['may'] });
    const changed = (await (await request(`/structures/${row.id}`, { method: 'PUT', body })).json()) as {
      structures: { id: number; tags: string[]; name: string }[];
    };
    expect(changed.structures.find(({ id }) => id === row.id)).toMatchObject({ tags: ['may'], name: 'covered' });
    for (const { id } of [row, bare]) await send('DELETE', `/structures/${id}`);
    for (const wrong of [{ tags: ['a,b'] }, { tags: [''] }, { name: 'n'.repeat(121) }, { held: 'many' }])
      await problemOf('/structures', 400, json({ ...given, ...wrong }));
  });
  it('come in together, all of them or none', async () => {
    const count = async () => (await get('/structures', StructuresResponse)).structures.length;
    const before = await count();
    const one = { symbol: 'CAIR', legs: [CAIR_LEG], name: 'one' };
    const unlisted = { ...one, legs: [{ ...CAIR_LEG, strike: 1e6 }] };
    const { detail, errors } = await problemOf('/structures/import', 422, json({ structures: [one, unlisted] }));
    expect(detail).toContain('no strike 1000000');
    expect(errors).toEqual([{ path: 'structures[1].legs', message: detail }]);
    await problemOf('/structures/import', 404, json({ structures: [one, { ...one, symbol: 'NOBODY' }] }));
    await problemOf('/structures/import', 400, json({ structures: [] }));
    expect(await count()).toBe(before);
    const { structures } = await post(
      '/structures/import',
      { structures: [one, { ...one, name: 'two' }] },
      StructuresResponse,
    );
    expect(structures.slice(-2).map(({ name }) => name)).toEqual(['one', 'two']);
    for (const { id } of structures.slice(-2)) await send('DELETE', `/structures/${id}`);
  });
  it('are told by a stream, at once and whenever one has changed', async () => {
    const answer = await request('/structures/stream');
    expect(answer.headers.get('content-type')).toContain('text/event-stream');
    const reader = answer.body!.getReader();
    const decoder = new TextDecoder();
    let text = '';
    /** The next message that says something else than that the stream is still there. */
    const next = async () => {
      for (;;) {
        const end = text.indexOf('\n\n');
        if (end < 0) {
          text += decoder.decode((await reader.read()).value, { stream: true });
          continue;
        }
        const said = text.slice(0, end);
        text = text.slice(end + 2);
        if (!said.startsWith('event: structures')) continue;
        return StructuresResponse.parse(JSON.parse(said.slice(said.indexOf('data: ') + 6))).structures;
      }
    };
    const first = await next();
    const note = `streamed ${process.pid}`;
    await post('/structures', { symbol: 'CAIR', legs: [CAIR_LEG], note }, StructuresResponse);
    let kept = await next();
    while (!kept.some((row) => row.note === note)) kept = await next();
    const row = kept.find((one) => one.note === note)!;
    expect(first.map(({ id }) => id)).not.toContain(row.id);
    expect(row.now).toMatchObject({ missing: null });
    await send('DELETE', `/structures/${row.id}`);
    while ((await next()).some(({ id }) => id === row.id)) continue;
    await reader.cancel();
  });
});
