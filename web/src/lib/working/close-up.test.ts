import { priceContract, type Side } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { resolveFocus } from '$lib/data/focus';
import { makeSnapshot, makeValued } from '$lib/testing/snapshot';
import { contractWork } from './contract';
import { basesTable, closeUpOf, COMPARED, differencesOf } from './close-up';

const snapshot = makeSnapshot();
const focusOf = (strike: number, side: Side) =>
  resolveFocus(snapshot, { expiry: '2031-04-17', settlement: null, strike, side })!;

describe('close-up', () => {
  it('compares the contract under six volatilities', () => {
    const closeUp = closeUpOf(makeValued(snapshot), focusOf(94, 'put'));
    expect(closeUp.views.map(({ basis }) => basis)).toEqual(COMPARED);
    const [own, curve, level, index, realized, manual] = closeUp.views.map(({ view }) => view);
    expect(own!.theory).toBeCloseTo(closeUp.mid, 9);
    expect(own!.vol).toBe(closeUp.vol);
    expect(curve!.vol).toBeCloseTo(own!.vol, 3);
    expect(level!.vol).toBe(snapshot.slices[1]!.fit.atmVol);
    expect(realized!.vol).toBe(0.15);
    expect(manual!.vol).toBe(0.25);
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
      resolveFocus(faulty, { expiry: '2031-04-17', settlement: null, strike: 94, side: 'put' })!,
    );
    expect(closeUp.reason).toBeGreaterThan(0);
    expect(closeUp.views[0]!.view.theory).toBeNaN();
    expect(closeUp.views[1]!.view.theory).toBeGreaterThan(0);
  });
  it('says what each assumption does to the odds: to the curve’s by drift, skew and slope', () => {
    const shown = makeValued(snapshot);
    const focus = focusOf(94, 'put');
    const closeUp = closeUpOf(shown, focus);
    const found = differencesOf(shown, focus, closeUp);
    const by = Object.fromEntries(found.map((one) => [one.cause, one]));
    const [, curve, level] = closeUp.views.map(({ view }) => view);
    expect(by['slope']!.with).toBeCloseTo(curve!.itm, 12);
    expect(by['skew']!.without).toBeCloseTo(level!.itm, 12);
  });
  it('shows its working: every number of the view stands at the end of a line', () => {
    const shown = makeValued(snapshot);
    const focus = focusOf(94, 'put');
    const closeUp = closeUpOf(shown, focus);
    const work = contractWork({ shown, focus, closeUp, zone: 'UTC' }, 'itm');
    const { chosen } = closeUp;
    const endOf = (key: string) => {
      const { tex } = work.lines.find((line) => line.key === key)!;
      return Number(/(-?[\d.]+)(?:\\cdot10\^\{(-?\d+)\})?$/.exec(tex)!.slice(1, 3).filter(Boolean).join('e'));
    };
    for (const key of ['theory', 'delta', 'gamma', 'theta', 'vega', 'itm', 'touch', 'breakEven'] as const) {
      expect(endOf(key) / chosen[key], key).toBeCloseTo(1, 6);
    }
    expect(endOf('mid')).toBeCloseTo(closeUp.mid, 7);
    expect(endOf('vol')).toBeCloseTo(chosen.vol, 8);
    expect(work.at).toBe('itm');
    expect(work.others!.rows.map(([basis]) => basis)).toEqual(COMPARED);
    // The other bases say how they come by theirs.
    for (const basis of ['own', 'level', 'index', 'realized', 'manual'] as const) {
      const other = makeValued(snapshot, basis);
      const lines = contractWork({ shown: other, focus, closeUp: closeUpOf(other, focus), zone: 'UTC' }).lines;
      expect(lines.length, basis).toBeGreaterThan(15);
      expect(
        lines.every(({ tex }) => !tex.includes('NaN')),
        basis,
      ).toBe(true);
    }
  });
});
