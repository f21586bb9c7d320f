import { priceContract } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { resolveFocus } from '$lib/state/focus';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { basesTable, closeUpOf, COMPARED } from './close-up';

const snapshot = makeSnapshot();
const focusOf = (strike: number, side: 'call' | 'put') =>
  resolveFocus(snapshot, { expiry: '2031-04-17', strike, side })!;

describe('close-up', () => {
  it('compares the contract under five volatilities', () => {
    const closeUp = closeUpOf(makeValued(snapshot), focusOf(94, 'put'));
    expect(closeUp.views.map(({ basis }) => basis)).toEqual(COMPARED);
    const [own, curve, level, index, realized] = closeUp.views.map(({ view }) => view);
    expect(own!.theory).toBeCloseTo(closeUp.mid, 9);
    expect(own!.vol).toBe(closeUp.vol);
    expect(curve!.vol).toBeCloseTo(own!.vol, 3);
    expect(level!.vol).toBe(snapshot.slices[1]!.fit.atmVol);
    expect(realized!.vol).toBe(0.15);
    expect(index!.vol).toBe(snapshot.measures.varianceIndex! / 100);
    expect(index!.vol).toBeGreaterThan(0.1);
    // Below the forward of a put-rich skew the put's own vol is the higher.
    expect(own!.vol).toBeGreaterThan(level!.vol);
    expect(closeUp.chosen).toBe(curve);
    expect(closeUp.edge).toBeCloseTo(closeUp.mid - curve!.theory, 12);
  });
  it('the flat odds of a row are N(d₂) of its vol', () => {
    const { fit } = snapshot.slices[1]!;
    const { views } = closeUpOf(makeValued(snapshot, 'level'), focusOf(94, 'put'));
    for (const { view } of views) {
      const { itm } = priceContract({
        model: 'black-76',
        side: 'put',
        forward: fit.forward,
        strike: 94,
        years: fit.years,
        rate: fit.rate,
        vol: view.vol,
      });
      expect(view.flatItm).toBeCloseTo(itm, 12);
    }
    expect(views[2]!.view.itm).toBeCloseTo(views[2]!.view.flatItm, 12);
  });
  it('break-even, distance and quotes of a call', () => {
    const closeUp = closeUpOf(makeValued(snapshot), focusOf(106, 'call'));
    expect(closeUp.breakEven).toBeCloseTo(106 + closeUp.mid, 12);
    expect(closeUp.distance).toBeCloseTo(106 / snapshot.slices[1]!.fit.forward - 1, 12);
    expect(closeUp.ask - closeUp.bid).toBeCloseTo(0.04, 9);
    expect([closeUp.volume, closeUp.openInterest, closeUp.reason]).toEqual([19, 1000, 0]);
  });
  it('as a table has a row per basis', () => {
    const focus = focusOf(94, 'put');
    const closeUp = closeUpOf(makeValued(snapshot), focus);
    const { columns, rows } = basesTable(closeUp, snapshot, focus);
    expect(rows.map((row) => row[5])).toEqual(COMPARED);
    expect(rows[0]!.slice(2, 5)).toEqual(['2031-04-17', 94, 'P']);
    expect(rows[1]![columns.findIndex(({ name }) => name === 'itm')]).toBe(closeUp.views[1]!.view.itm);
  });
  it('a refused quote has no own row, and says why', () => {
    const faulty = makeSnapshot();
    faulty.slices[1]!.put.bid[3] = 0;
    const closeUp = closeUpOf(
      makeValued(faulty),
      resolveFocus(faulty, { expiry: '2031-04-17', strike: 94, side: 'put' })!,
    );
    expect(closeUp.reason).toBeGreaterThan(0);
    expect(closeUp.views[0]!.view.theory).toBeNaN();
    expect(closeUp.views[1]!.view.theory).toBeGreaterThan(0);
  });
});
