import { describe, expect, it } from 'vitest';
import { HedgeResponse } from '../../web/src/lib/api/schemas';
import { post, problemOf } from './client';

const refused = async (body: object, status: number) =>
  problemOf('/hedge', status, { method: 'POST', body: JSON.stringify(body) });

describe('POST /hedge', () => {
  // J. Hull, "Options, Futures, and Other Derivatives", on Greek letters (from memory): 400 and 6000 options, and 3240 of the asset sold.
  const exposure = { gamma: -5000, vega: -8000 };
  const instruments = [
    { id: 'first', delta: 0.6, gamma: 0.5, vega: 2 },
    { id: 'second', delta: 0.5, gamma: 0.8, vega: 1.2 },
  ];
  it('trades options until gamma and vega are nothing, then the underlying', async () => {
    const found = await post(
      '/hedge',
      { exposure, instruments, neutralize: ['delta', 'gamma', 'vega'] },
      HedgeResponse,
    );
    expect(found.trades).toEqual([
      { id: 'first', quantity: expect.closeTo(400, 8) as number },
      { id: 'second', quantity: expect.closeTo(6000, 8) as number },
      { id: 'underlying', quantity: expect.closeTo(-3240, 8) as number },
    ]);
    // Running sums, from the exposure on.
    expect(found.steps.map(({ cumulative }) => cumulative.gamma)).toEqual(
      [-4800, 0, 0].map((left) => expect.closeTo(left, 8) as number),
    );
    expect(found.steps.map(({ position }) => position.delta)).toEqual(
      [240, 3000, -3240].map((one) => expect.closeTo(one, 8) as number),
    );
    expect(found.residual.delta).toBeCloseTo(0, 8);
  });
  it('in whole numbers says what is left', async () => {
    const body = { exposure: { delta: 10, gamma: -1.3 }, instruments, neutralize: ['gamma', 'delta'], whole: true };
    const found = await post('/hedge', body, HedgeResponse);
    // Of either option alone the second is the fewer: 1.625 of it, or 2.6 of the first.
    expect(found.trades).toEqual([
      { id: 'second', quantity: 2 },
      { id: 'underlying', quantity: -11 },
    ]);
    expect(found.residual.gamma).toBeCloseTo(0.3, 12);
  });
  it('refuses what cannot be, by its reason and its place', async () => {
    const few = await refused({ exposure, instruments: instruments.slice(0, 1), neutralize: ['gamma', 'vega'] }, 422);
    expect(few.detail).toContain('one option cannot bring gamma and vega to nothing');
    const twice = { ...instruments[0], id: 'twice', gamma: 1, vega: 4 };
    const same = await refused({ exposure, instruments: [instruments[0], twice], neutralize: ['gamma', 'vega'] }, 422);
    expect(same.detail).toBe('first and twice say the same of gamma and vega');
    for (const [body, path] of [
      [{ exposure, instruments, neutralize: [] }, 'neutralize'],
      [{ exposure, instruments: [instruments[0], instruments[0]], neutralize: ['gamma'] }, 'instruments.1.id'],
      [
        { exposure, instruments: [{ id: 'underlying', gamma: 1, delta: 1 }], neutralize: ['delta'] },
        'instruments.0.gamma',
      ],
      [{ exposure: { delta: 'much' }, instruments, neutralize: ['delta'] }, 'exposure.delta'],
    ] as const)
      expect((await refused(body, 400)).errors, path).toMatchObject([{ path }]);
  });
});
